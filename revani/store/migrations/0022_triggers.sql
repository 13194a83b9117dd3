-- When a run that waited was begun; what sensors and people have said that a run may wait for; who may say so.
ALTER TABLE run ADD COLUMN begins_s double precision;
CREATE TABLE heard (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    rig text NOT NULL,
    run_id uuid REFERENCES run ON DELETE CASCADE,
    kind text NOT NULL,
    value double precision NOT NULL DEFAULT 0,
    word text NOT NULL DEFAULT '',
    at timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX heard_by_kind ON heard (rig, kind, id);
CREATE INDEX heard_by_time ON heard (at);
CREATE TABLE sensor_token (
    rig text PRIMARY KEY,
    sha256 text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now()
);
