-- What stood against a run when it was armed all the same, and what it waits for.
ALTER TABLE run ADD COLUMN overridden jsonb NOT NULL DEFAULT '[]';
ALTER TABLE run ADD COLUMN waits_for text NOT NULL DEFAULT '';
