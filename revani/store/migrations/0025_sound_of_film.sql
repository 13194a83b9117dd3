-- How loud the sound of what a run filmed is; without figures where its file has no sound.
CREATE TABLE sound_of_film (
    run_id uuid PRIMARY KEY REFERENCES run ON DELETE CASCADE,
    loudness jsonb,
    measured_at timestamptz NOT NULL DEFAULT now()
);
