-- What a film is made as: the recipe of an output, none for the frames as they are; the folder of one's own that it is
-- made from, none for what came home from the camera; the frames that go into it, in their order; how its stills were
-- aligned; and its parts, each of which is made by whichever worker is free.
ALTER TABLE film ADD COLUMN output jsonb;
ALTER TABLE film ADD COLUMN own text NOT NULL DEFAULT '';
ALTER TABLE film ADD COLUMN frames integer[];
ALTER TABLE film ADD COLUMN aligned jsonb;

CREATE TABLE film_part (
    film_id uuid NOT NULL REFERENCES film ON DELETE CASCADE,
    number integer NOT NULL CHECK (number >= 0),
    first integer NOT NULL CHECK (first >= 0),
    count integer NOT NULL CHECK (count > 0),
    done integer NOT NULL DEFAULT 0 CHECK (done >= 0),
    finished boolean NOT NULL DEFAULT false,
    PRIMARY KEY (film_id, number)
);
