-- Films made of shots. A cut names its shot by id and keeps its place when that is put away or deleted, so there is no
-- foreign key; what of it is gone is said where the sequence is shown.
CREATE TABLE sequence (
    id uuid PRIMARY KEY,
    name text NOT NULL CHECK (name ~ '\S'),
    version integer NOT NULL DEFAULT 1 CHECK (version > 0),
    archived boolean NOT NULL DEFAULT false,
    document jsonb NOT NULL CHECK (document ->> 'id' = id::text),
    saved_at timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE earlier_version DROP CONSTRAINT earlier_version_record_check;
ALTER TABLE earlier_version ADD CONSTRAINT earlier_version_record_check
    CHECK (record IN ('gear', 'place', 'shot', 'sequence'));
