-- Whether one may go: what was found of the files of a run's frames, after so many of them.
CREATE TABLE first_frames (
    run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
    after integer NOT NULL CHECK (after > 0),
    verdict jsonb NOT NULL,
    found_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (run_id, after)
);
