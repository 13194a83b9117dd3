-- Which kinds of gear there are is the documents' to say, in one place; here a kind is only that of its document.
ALTER TABLE gear DROP CONSTRAINT gear_kind_check;
ALTER TABLE gear ADD CONSTRAINT gear_kind_is_of_its_document CHECK (document ->> 'kind' IS NOT DISTINCT FROM kind);
