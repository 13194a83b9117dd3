import { replaceEqualDeep } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

/** Does one thing after the other, in the order in which they were asked for. */
export function useInOrder() {
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return useCallback(<T>(work: () => Promise<T>): Promise<T> => {
    const mine = last.current.then(work, work);
    last.current = mine.catch(() => undefined);
    return mine;
  }, []);
}

/**
 * Asks one thing at a time: while an answer is under way the newest question waits, and those that it
 * overtook are let go. So a drag is followed as fast as answers come, however fast the pointer is.
 */
export function useInTurn() {
  const state = useRef({ busy: false, era: 0, waiting: null as ((turn: boolean) => void) | null });
  const ask = useCallback(async <T>(question: () => Promise<T>): Promise<T | null> => {
    const now = state.current;
    if (now.busy) {
      const turn = await new Promise<boolean>((resolve) => {
        now.waiting?.(false);
        now.waiting = resolve;
      });
      if (!turn) return null;
    }
    now.busy = true;
    const era = now.era;
    try {
      const answer = await question();
      return era === now.era ? answer : null;
    } catch (error) {
      if (era === now.era) throw error;
      return null;
    } finally {
      const next = now.waiting;
      now.waiting = null;
      // Whoever waits goes on being the busy one.
      if (next) next(true);
      else now.busy = false;
    }
  }, []);
  /** Let go of what is asked and what waits: their answers are not wanted any more. */
  const drop = useCallback(() => {
    state.current.era += 1;
    state.current.waiting?.(false);
    state.current.waiting = null;
  }, []);
  return useMemo(() => ({ ask, drop }), [ask, drop]);
}

/** Runs only the newest request: an overtaken one is cancelled, and its answer never shown. */
export function useLatest() {
  const running = useRef<AbortController | null>(null);
  return useCallback(async <T>(request: (signal: AbortSignal) => Promise<T>): Promise<T | null> => {
    running.current?.abort();
    const mine = new AbortController();
    running.current = mine;
    try {
      const answer = await request(mine.signal);
      return running.current === mine ? answer : null;
    } catch (error) {
      if (mine.signal.aborted) return null;
      throw error;
    }
  }, []);
}

/** How long a plan must have stood still before what hangs on it is asked for. */
export const QUIET_MS = 200;

/** Something computed for a plan that is asked for once the plan has stood still for a moment. */
export function useOnceQuiet<T>(ask: (signal: AbortSignal) => Promise<T>, depends: readonly unknown[]) {
  const [answer, setAnswer] = useState<T | null>(null);
  const [refused, setRefused] = useState("");
  const latest = useLatest();
  const now = useRef(ask);
  now.current = ask;
  useEffect(() => {
    const timer = window.setTimeout(() => {
      void latest((signal) => now.current(signal))
        .then((found) => {
          if (!found) return;
          setAnswer((before) => replaceEqualDeep(before, found));
          setRefused("");
        })
        .catch((error) => setRefused(error instanceof Error ? error.message : "It could not be worked out."));
    }, QUIET_MS);
    return () => window.clearTimeout(timer);
  }, [latest, ...depends]);
  return { answer, refused };
}
