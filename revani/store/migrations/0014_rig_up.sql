-- What a person ticked of a shot's rig-up list, and when and where; presets; code cards that were used once.
CREATE TABLE rig_tick (
    shot_id uuid NOT NULL REFERENCES shot ON DELETE CASCADE,
    step text NOT NULL CHECK (length(step) BETWEEN 1 AND 80),
    ticked_at timestamptz NOT NULL DEFAULT now(),
    ticked_on text NOT NULL CHECK (ticked_on IN ('laptop', 'phone')),
    PRIMARY KEY (shot_id, step)
);

CREATE TABLE preset (
    id uuid PRIMARY KEY,
    name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    document jsonb NOT NULL,
    saved_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE code_used (
    nonce text PRIMARY KEY,
    used_at timestamptz NOT NULL DEFAULT now()
);
