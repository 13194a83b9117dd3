-- A shutter of no time was allowed, and could not be computed with.
UPDATE gear SET document = jsonb_set(document, '{shutter_min_s}', '"1/8000"')
WHERE kind = 'body' AND document ->> 'shutter_min_s' ~ '^0(\.0*)?$';
UPDATE shot SET document = jsonb_set(document, '{kit,body,shutter_min_s}', '"1/8000"')
WHERE document #>> '{kit,body,shutter_min_s}' ~ '^0(\.0*)?$';
UPDATE run SET shot = jsonb_set(shot, '{kit,body,shutter_min_s}', '"1/8000"')
WHERE shot #>> '{kit,body,shutter_min_s}' ~ '^0(\.0*)?$';
