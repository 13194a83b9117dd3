import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, Refused, type Shot, told } from "../api/client";

export type Saving = "saved" | "saving" | "waiting" | "refused" | "elsewhere";

interface Stored {
  version: number;
  document: Shot;
}

/** How long a shot stands still before it is saved, and how long a save that failed waits for the next try. */
const STILL_MS = 500;
const RETRY_MS = 2_000;

interface Desk {
  id: string;
  present: Shot | null;
  standing: () => Shot | null;
  /** What a leaver leaves: what stands, with what is still being typed. */
  leaving: () => Shot | null;
  onRefused: (refusal: Refused) => void;
}

/** Saves what stands on the desk: one save at a time, the newest document wins, who leaves leaves nothing behind. */
export function useSaving({ id, present, standing, leaving, onRefused }: Desk) {
  const queries = useQueryClient();
  const [saving, setSaving] = useState<Saving>("saved");
  const [theirs, setTheirs] = useState<Stored | null>(null);
  const version = useRef(0);
  const savedText = useRef("");
  const inFlight = useRef(false);
  const again = useRef<number | undefined>(undefined);
  const saveNow = useRef<() => Promise<void>>(async () => undefined);

  /** What is stored: a save must name its version. */
  const loaded = useCallback((stored: Stored) => {
    version.current = stored.version;
    savedText.current = JSON.stringify(stored.document);
  }, []);

  /** Save what stands, and again while something else stands by then. */
  const save = useCallback(async () => {
    if (inFlight.current) return;
    inFlight.current = true;
    try {
      for (;;) {
        const shot = standing();
        const text = JSON.stringify(shot);
        if (!shot || text === savedText.current) break;
        setSaving("saving");
        const saved = await told(
          api.PUT("/api/shots/{id}", {
            params: { path: { id }, header: { "If-Match": version.current } },
            body: shot,
          }),
        );
        version.current = saved.version;
        savedText.current = text;
      }
      setSaving("saved");
      void queries.invalidateQueries({ queryKey: ["shots"] });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      if (error.status === 409) {
        setTheirs(error.current as Stored);
        setSaving("elsewhere");
      } else if (error.status === 422) {
        onRefused(error);
        setSaving("refused");
      } else {
        setSaving("waiting");
        again.current = window.setTimeout(() => void saveNow.current(), RETRY_MS);
      }
    } finally {
      inFlight.current = false;
    }
  }, [id, queries, standing, onRefused]);
  saveNow.current = save;

  useEffect(() => {
    if (!present || theirs) return;
    window.clearTimeout(again.current);
    if (JSON.stringify(present) === savedText.current) {
      // Back at what is stored, before a save of what stood in between was begun.
      if (!inFlight.current) setSaving("saved");
      return;
    }
    setSaving("saving");
    const timer = window.setTimeout(() => void save(), STILL_MS);
    return () => window.clearTimeout(timer);
  }, [present, theirs, save]);

  const leavingNow = useRef(leaving);
  leavingNow.current = leaving;
  const flush = useCallback(() => {
    const shot = leavingNow.current();
    if (!shot || JSON.stringify(shot) === savedText.current) return;
    savedText.current = JSON.stringify(shot);
    window.clearTimeout(again.current);
    void api
      .PUT("/api/shots/{id}", {
        // A save that is under way makes the next version before this one arrives.
        params: { path: { id }, header: { "If-Match": version.current + (inFlight.current ? 1 : 0) } },
        body: shot,
        keepalive: true,
      })
      .then(() => queries.invalidateQueries({ queryKey: ["shot", id] }))
      .catch(() => undefined);
  }, [id, queries]);

  /** Settle a shot that was saved elsewhere: keep what is here, or say what is there. */
  const settle = useCallback(
    (keep: "mine" | "theirs"): Shot | null => {
      if (!theirs) return null;
      version.current = theirs.version;
      setTheirs(null);
      if (keep === "mine") {
        void save();
        return null;
      }
      savedText.current = JSON.stringify(theirs.document);
      setSaving("saved");
      return theirs.document;
    },
    [theirs, save],
  );

  /** The version that stands on the desk, once all of it is saved; null where it cannot be saved now. */
  const savedVersion = useCallback(async () => {
    await save();
    const shot = standing();
    return shot && JSON.stringify(shot) === savedText.current ? version.current : null;
  }, [save, standing]);

  return { saving, theirs, loaded, flush, settle, savedVersion };
}
