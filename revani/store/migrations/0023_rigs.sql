-- Rigs by the key that runs are kept under; one that is put away is neither driven nor offered.
CREATE TABLE rig (
    key         text PRIMARY KEY,
    version     integer NOT NULL DEFAULT 1 CHECK (version >= 1),
    archived    boolean NOT NULL DEFAULT false,
    document    jsonb NOT NULL CHECK (document ->> 'key' = key),
    made_at     timestamptz NOT NULL DEFAULT now(),
    saved_at    timestamptz NOT NULL DEFAULT now()
);
