-- Gear, places and shots: the document, beside what is searched and what must hold.
CREATE TABLE gear (
    id          uuid PRIMARY KEY,
    kind        text NOT NULL CHECK (kind IN ('body', 'lens', 'card')),
    name        text NOT NULL CHECK (name <> ''),
    version     integer NOT NULL DEFAULT 1 CHECK (version >= 1),
    archived    boolean NOT NULL DEFAULT false,
    document    jsonb NOT NULL CHECK (document ->> 'id' = id::text AND document ->> 'kind' = kind),
    saved_at    timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE place (
    id          uuid PRIMARY KEY,
    name        text NOT NULL CHECK (name <> ''),
    version     integer NOT NULL DEFAULT 1 CHECK (version >= 1),
    archived    boolean NOT NULL DEFAULT false,
    document    jsonb NOT NULL CHECK (document ->> 'id' = id::text),
    saved_at    timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE shot (
    id          uuid PRIMARY KEY,
    name        text NOT NULL CHECK (name <> ''),
    date        date NOT NULL,
    body_id     uuid NOT NULL REFERENCES gear,
    lens_id     uuid NOT NULL REFERENCES gear,
    card_id     uuid NOT NULL REFERENCES gear,
    place_id    uuid NOT NULL REFERENCES place,
    version     integer NOT NULL DEFAULT 1 CHECK (version >= 1),
    archived    boolean NOT NULL DEFAULT false,
    document    jsonb NOT NULL CHECK (document ->> 'id' = id::text),
    saved_at    timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX shot_date ON shot (date) WHERE NOT archived;

-- What every save replaced.
CREATE TABLE earlier_version (
    record      text NOT NULL CHECK (record IN ('gear', 'place', 'shot')),
    id          uuid NOT NULL,
    version     integer NOT NULL,
    document    jsonb NOT NULL,
    saved_at    timestamptz NOT NULL,
    PRIMARY KEY (record, id, version)
);
