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

-- All gear of a kit, whatever it comes as: the body, each of the filters, movers, and what else is carried.
CREATE OR REPLACE VIEW shot_made_of AS
SELECT shot.id AS shot_id, used.ids AS gear_ids,
       md5(concat_ws(',', shot.version, place.version,
           (SELECT string_agg(gear.version::text, ',' ORDER BY gear.id) FROM gear WHERE gear.id = ANY (used.ids)))) AS stamp
FROM shot
JOIN place ON place.id = place_id
CROSS JOIN LATERAL (
    SELECT ARRAY(SELECT (piece #>> '{}')::uuid FROM jsonb_path_query(shot.document, '$.kit.*.id') AS piece) AS ids
) AS used;
