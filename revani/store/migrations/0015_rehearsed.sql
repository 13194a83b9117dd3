-- Films of what a shot would be: by what is in them, so that the same plan is made once.
CREATE TABLE rehearsed (
    id text PRIMARY KEY CHECK (id ~ '^[0-9a-f]{64}$'),
    shot jsonb NOT NULL,
    width integer NOT NULL CHECK (width BETWEEN 160 AND 1920),
    state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'working', 'done', 'failed', 'cancelled')),
    reason text NOT NULL DEFAULT '',
    total integer NOT NULL CHECK (total > 0),
    asked_at timestamptz NOT NULL DEFAULT now(),
    started_at timestamptz,
    ended_at timestamptz,
    cancel_wanted boolean NOT NULL DEFAULT false
);

CREATE TABLE rehearsed_part (
    film_id text NOT NULL REFERENCES rehearsed ON DELETE CASCADE,
    number integer NOT NULL CHECK (number >= 0),
    first integer NOT NULL CHECK (first >= 0),
    count integer NOT NULL CHECK (count > 0),
    key text NOT NULL CHECK (key ~ '^[0-9a-f]{64}$'),
    done integer NOT NULL DEFAULT 0 CHECK (done >= 0),
    finished boolean NOT NULL DEFAULT false,
    PRIMARY KEY (film_id, number)
);
