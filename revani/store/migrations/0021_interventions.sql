-- What a person changed while a run went on, and from which frame on it holds.
CREATE TABLE intervention (
    run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
    nth integer NOT NULL CHECK (nth > 0),
    kind text NOT NULL,
    amount double precision NOT NULL DEFAULT 0,
    axis text,
    ordered_by text NOT NULL,
    ordered_at timestamptz NOT NULL DEFAULT now(),
    from_number integer CHECK (from_number > 0),
    refused text NOT NULL DEFAULT '',
    PRIMARY KEY (run_id, nth)
);
