-- What a person is called for, until one has acknowledged it; and where alarms go out to.
CREATE TABLE alarm (
    id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
    key text NOT NULL,
    level text NOT NULL CHECK (level IN ('look', 'come')),
    text text NOT NULL,
    advice text NOT NULL,
    raised_at timestamptz NOT NULL DEFAULT now(),
    over_at timestamptz,
    acknowledged_at timestamptz,
    acknowledged_by text NOT NULL DEFAULT '',
    told_at timestamptz,
    told_count integer NOT NULL DEFAULT 0
);
-- One cause is one alarm until it is over.
CREATE UNIQUE INDEX alarm_standing ON alarm (run_id, key) WHERE over_at IS NULL;
CREATE TABLE outlet (
    id uuid PRIMARY KEY DEFAULT gen_random_uuid(),
    name text NOT NULL CHECK (name <> ''),
    address text NOT NULL,
    from_level text NOT NULL CHECK (from_level IN ('look', 'come')),
    failed text NOT NULL DEFAULT '',
    made_at timestamptz NOT NULL DEFAULT now()
);
