-- A run that was not begun when its time had passed did not fail: it missed its start.
ALTER TABLE run DROP CONSTRAINT run_state_check;
ALTER TABLE run DROP CONSTRAINT run_check;
ALTER TABLE run ADD CONSTRAINT run_state_check
    CHECK (state IN ('armed', 'running', 'finished', 'stopped', 'failed', 'missed'));
ALTER TABLE run ADD CONSTRAINT run_ended_check
    CHECK (state IN ('armed', 'running') OR ended_at IS NOT NULL);
-- Whoever takes a run up gets the next number; the camera obeys the highest that it has seen.
ALTER TABLE run ADD COLUMN fence bigint NOT NULL DEFAULT 0;
-- What was noted beside the frames: a stall, a clock that was set, gear that began anew.
ALTER TABLE run ADD COLUMN notes jsonb NOT NULL DEFAULT '[]';

ALTER TABLE run ADD COLUMN planned_end_s double precision;
-- Stage clocks are kept by the steady clock that counts sleep, from now on.
UPDATE run SET clock = NULL WHERE clock ? 'monotonic_s';

-- A frame that was noted as missed and turned up later stands beside its row, which is never changed.
CREATE TABLE journal_amendment (
    run_id      uuid NOT NULL,
    number      integer NOT NULL,
    reason      text NOT NULL CHECK (reason <> ''),
    fired_s     double precision NOT NULL,
    file        text NOT NULL,
    size_bytes  bigint,
    sha256      text,
    settings    jsonb,
    camera      jsonb,
    noted_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (run_id, number),
    FOREIGN KEY (run_id, number) REFERENCES journal_frame
);
CREATE TRIGGER journal_amendment_append_only BEFORE UPDATE OR DELETE ON journal_amendment
    FOR EACH ROW EXECUTE FUNCTION journal_is_append_only();

-- The journal as it is true.
CREATE VIEW journal AS
SELECT frame.run_id, frame.number, frame.planned_s,
       coalesce(found.fired_s, frame.fired_s) AS fired_s,
       CASE WHEN found.run_id IS NULL THEN frame.outcome ELSE 'taken' END AS outcome,
       coalesce(found.reason, frame.reason) AS reason,
       coalesce(found.file, frame.file) AS file,
       coalesce(found.size_bytes, frame.size_bytes) AS size_bytes,
       coalesce(found.sha256, frame.sha256) AS sha256,
       coalesce(found.settings, frame.settings) AS settings,
       coalesce(found.camera, frame.camera) AS camera,
       frame.rig,
       CASE WHEN found.run_id IS NULL THEN '' ELSE frame.reason END AS first_said
FROM journal_frame AS frame
LEFT JOIN journal_amendment AS found USING (run_id, number);

-- How many frames of its run a film was closed over, and when a worker last said anything of it.
ALTER TABLE film ADD COLUMN closed_over integer NOT NULL DEFAULT 0 CHECK (closed_over >= 0);
ALTER TABLE film ADD COLUMN noted_at timestamptz NOT NULL DEFAULT now();
