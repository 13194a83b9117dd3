-- A run that was not begun when its time had passed did not fail: it missed its start.
ALTER TABLE run DROP CONSTRAINT run_state_check;
ALTER TABLE run DROP CONSTRAINT run_check;
ALTER TABLE run ADD CONSTRAINT run_state_check
    CHECK (state IN ('armed', 'running', 'finished', 'stopped', 'failed', 'missed'));
ALTER TABLE run ADD CONSTRAINT run_ended_check
    CHECK (state IN ('armed', 'running') OR ended_at IS NOT NULL);
-- Whoever takes a run up gets the next number; the camera obeys the highest that it has seen.
ALTER TABLE run ADD COLUMN fence bigint NOT NULL DEFAULT 0;
CREATE SEQUENCE run_fence;
-- What was noted beside the frames: a stall, a clock that was set, gear that began anew.
ALTER TABLE run ADD COLUMN notes jsonb NOT NULL DEFAULT '[]';

-- What was found out later about a frame stands beside its row, which is never changed.
CREATE TABLE journal_amendment (
    run_id      uuid NOT NULL,
    number      integer NOT NULL,
    place       integer NOT NULL CHECK (place >= 1),
    outcome     text NOT NULL CHECK (outcome IN ('taken', 'missed')),
    reason      text NOT NULL CHECK (reason <> ''),
    fired_s     double precision,
    file        text,
    size_bytes  bigint,
    sha256      text,
    settings    jsonb,
    camera      jsonb,
    noted_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (run_id, number, place),
    FOREIGN KEY (run_id, number) REFERENCES journal_frame,
    CHECK ((outcome = 'taken') = (fired_s IS NOT NULL AND file IS NOT NULL))
);
CREATE TRIGGER journal_amendment_append_only BEFORE UPDATE OR DELETE ON journal_amendment
    FOR EACH ROW EXECUTE FUNCTION journal_is_append_only();

-- The journal as it is true: each frame with what was found out last.
CREATE VIEW journal AS
SELECT frame.run_id, frame.number, frame.planned_s,
       CASE WHEN found.place IS NULL THEN frame.fired_s ELSE found.fired_s END AS fired_s,
       coalesce(found.outcome, frame.outcome) AS outcome,
       coalesce(found.reason, frame.reason) AS reason,
       CASE WHEN found.place IS NULL THEN frame.file ELSE found.file END AS file,
       CASE WHEN found.place IS NULL THEN frame.size_bytes ELSE found.size_bytes END AS size_bytes,
       CASE WHEN found.place IS NULL THEN frame.sha256 ELSE found.sha256 END AS sha256,
       CASE WHEN found.place IS NULL THEN frame.settings ELSE found.settings END AS settings,
       CASE WHEN found.place IS NULL THEN frame.camera ELSE found.camera END AS camera,
       frame.rig,
       found.place IS NOT NULL AS amended
FROM journal_frame AS frame
LEFT JOIN LATERAL (
    SELECT * FROM journal_amendment AS one
    WHERE one.run_id = frame.run_id AND one.number = frame.number ORDER BY place DESC LIMIT 1
) AS found ON true;
