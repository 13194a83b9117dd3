-- What a camera saw just before the run that it waited for began.
CREATE TABLE seen_before (
    run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
    number integer NOT NULL,
    ago_s double precision NOT NULL,
    picture bytea NOT NULL,
    PRIMARY KEY (run_id, number)
);
