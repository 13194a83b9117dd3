-- Where the axes of the rig were meant to be and were, a frame; and the turning points of a filmed move.
ALTER TABLE journal_frame ADD COLUMN rig jsonb;
