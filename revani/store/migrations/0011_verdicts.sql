-- What is wrong with a shot at worst, as it was judged when everything that it is made of stood as `stamp` says.
CREATE TABLE verdict (
    shot_id uuid PRIMARY KEY REFERENCES shot ON DELETE CASCADE,
    stamp text NOT NULL,
    severity text CHECK (severity IN ('stop', 'fix', 'mind', 'good')),
    fails integer NOT NULL CHECK (fails >= 0),
    minds integer NOT NULL CHECK (minds >= 0)
);

-- The gear of each shot, and a stamp that changes with the shot and with whatever it is made of.
CREATE VIEW shot_made_of AS
SELECT shot.id AS shot_id, used.ids AS gear_ids,
       md5(concat_ws(',', shot.version, place.version,
           (SELECT string_agg(gear.version::text, ',' ORDER BY gear.id) FROM gear WHERE gear.id = ANY (used.ids)))) AS stamp
FROM shot
JOIN place ON place.id = place_id
CROSS JOIN LATERAL (
    SELECT ARRAY[body_id, lens_id, card_id]
        || ARRAY(SELECT (piece ->> 'id')::uuid FROM jsonb_array_elements(shot.document #> '{kit,filters}') AS piece)
        || ARRAY(SELECT (piece ->> 'id')::uuid FROM jsonb_array_elements(shot.document #> '{kit,movers}') AS piece) AS ids
) AS used;
