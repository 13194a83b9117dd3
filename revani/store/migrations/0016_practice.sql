-- What goes wrong in a rehearsed film that its plan does not know of.
ALTER TABLE rehearsed ADD COLUMN mishaps jsonb NOT NULL DEFAULT '[]';
