-- What is chosen once for the whole of this Revani, by name: how lengths and temperatures are shown.
CREATE TABLE preference (
    name text PRIMARY KEY,
    value jsonb NOT NULL
);
