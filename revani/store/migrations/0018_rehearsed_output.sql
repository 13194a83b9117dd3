-- Which output of its shot a rehearsed film is, counted from 0; null for its pictures as they are taken.
ALTER TABLE rehearsed ADD COLUMN output integer CHECK (output >= 0);
