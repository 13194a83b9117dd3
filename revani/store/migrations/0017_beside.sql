-- Films of ways beside each other: which, and by what their cursor is locked; null for the film of one shot.
ALTER TABLE rehearsed ADD COLUMN beside jsonb;
