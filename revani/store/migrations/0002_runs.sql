-- A run is a shot as it was when it was armed, and what became of it.
CREATE TABLE run (
    id              uuid PRIMARY KEY,
    shot_id         uuid NOT NULL REFERENCES shot,
    shot            jsonb NOT NULL,
    rig             text NOT NULL,
    state           text NOT NULL DEFAULT 'armed'
                    CHECK (state IN ('armed', 'running', 'finished', 'stopped', 'failed')),
    reason          text NOT NULL DEFAULT '',
    speed           double precision NOT NULL CHECK (speed >= 1 AND speed <= 3600),
    frame_count     integer NOT NULL CHECK (frame_count >= 1),
    planned_start_s double precision NOT NULL,
    stop_wanted     boolean NOT NULL DEFAULT false,
    runner          text,
    lease_until     timestamptz,
    clock           jsonb,
    armed_at        timestamptz NOT NULL DEFAULT now(),
    started_at      timestamptz,
    ended_at        timestamptz,
    CHECK (state NOT IN ('finished', 'stopped', 'failed') OR ended_at IS NOT NULL)
);
-- One rig fires one run at a time.
CREATE UNIQUE INDEX run_one_a_rig ON run (rig) WHERE state = 'running';

CREATE TABLE journal_frame (
    run_id      uuid NOT NULL REFERENCES run,
    number      integer NOT NULL CHECK (number >= 1),
    planned_s   double precision NOT NULL,
    fired_s     double precision,
    outcome     text NOT NULL CHECK (outcome IN ('taken', 'missed')),
    reason      text NOT NULL DEFAULT '',
    file        text,
    size_bytes  bigint,
    sha256      text,
    settings    jsonb,
    camera      jsonb,
    noted_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (run_id, number),
    CHECK ((outcome = 'taken') = (fired_s IS NOT NULL AND file IS NOT NULL))
);

CREATE FUNCTION journal_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'the journal is append-only';
END $$;
CREATE TRIGGER journal_frame_append_only BEFORE UPDATE OR DELETE ON journal_frame
    FOR EACH ROW EXECUTE FUNCTION journal_is_append_only();

-- The runner of a rig says that it is alive, and what its camera says.
CREATE TABLE runner_sign (
    rig         text PRIMARY KEY,
    runner      text NOT NULL,
    seen_at     timestamptz NOT NULL,
    camera      jsonb
);

CREATE TABLE film (
    id          uuid PRIMARY KEY,
    run_id      uuid NOT NULL REFERENCES run,
    state       text NOT NULL DEFAULT 'waiting'
                CHECK (state IN ('waiting', 'working', 'finished', 'cancelled', 'failed')),
    reason      text NOT NULL DEFAULT '',
    step        text NOT NULL DEFAULT '',
    done        integer NOT NULL DEFAULT 0 CHECK (done >= 0),
    total       integer NOT NULL CHECK (total >= 1),
    fps         text NOT NULL,
    frame_count integer,
    size_bytes  bigint,
    cancel_wanted boolean NOT NULL DEFAULT false,
    started_at  timestamptz,
    made_at     timestamptz NOT NULL DEFAULT now(),
    ended_at    timestamptz
);
