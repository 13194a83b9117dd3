-- Filters and movers are gear too.
ALTER TABLE gear DROP CONSTRAINT gear_kind_check;
ALTER TABLE gear ADD CONSTRAINT gear_kind_check CHECK (kind IN ('body', 'lens', 'card', 'filter', 'mover'));
