import { replaceEqualDeep, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { api, type DeskEdit, type Plan, Refused, type Schemas, type Shot, told } from "../api/client";

type Neighbour = Schemas["Neighbour"];

/** What a plan is asked for beside the shot. */
interface Beside {
  neighbours: Neighbour[];
  rates: boolean;
}

interface History {
  past: Shot[];
  present: Shot;
  future: Shot[];
}

type Step = { do: "set"; shot: Shot } | { do: "undo" } | { do: "redo" } | { do: "load"; shot: Shot };

function walk(history: History | null, step: Step): History | null {
  if (step.do === "load") return { past: [], present: step.shot, future: [] };
  if (!history) return history;
  const { past, present, future } = history;
  if (step.do === "set") {
    if (JSON.stringify(step.shot) === JSON.stringify(present)) return history;
    return { past: [...past.slice(-199), present], present: step.shot, future: [] };
  }
  if (step.do === "undo") {
    const last = past.at(-1);
    return last ? { past: past.slice(0, -1), present: last, future: [present, ...future] } : history;
  }
  const next = future[0];
  return next ? { past: [...past, present], present: next, future: future.slice(1) } : history;
}

export type Saving = "saved" | "saving" | "waiting" | "refused" | "elsewhere";

/** A refusal that the desk shows beside the field that it names. */
export interface FieldFault {
  field: string;
  message: string;
}

/** How long a save that failed waits before the shot that stands by then is saved. */
const RETRY_MS = 2_000;

/**
 * The shot on the desk: one immutable document with its history, its compiled plan, and its saving.
 * While something is typed, `preview` shows the plan of the text so far; `commit` makes it an edit.
 */
export function useDesk(id: string, rates: boolean) {
  const queries = useQueryClient();
  const loaded = useQuery({
    queryKey: ["shot", id],
    queryFn: () => told(api.GET("/api/shots/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnWindowFocus: false,
  });
  // Known before the first plan is asked for, or not at all: they change one judgement only.
  const company = useQuery({
    queryKey: ["neighbours", id],
    queryFn: () => told(api.GET("/api/shots/{id}/neighbours", { params: { path: { id } } })),
    staleTime: 60_000,
  });
  const beside = useRef<Beside>({ neighbours: [], rates });
  beside.current = { neighbours: company.data ?? [], rates };
  // What stands is known at once, not only when it has been drawn: edits follow each other faster than that.
  const history = useRef<History | null>(null);
  const [, redraw] = useReducer((drawn: number) => drawn + 1, 0);
  const step = useCallback((next: Step) => {
    const before = history.current;
    history.current = walk(before, next);
    if (history.current !== before) redraw();
  }, []);
  const inOrder = useInOrder();
  const version = useRef(0);
  const [plan, showPlan] = useState<Plan | null>(null);
  const shown = useRef<Plan | null>(null);
  // What is the same in two answers keeps its identity, so that only what changes is drawn anew.
  const setPlan = useCallback((answer: Plan) => {
    shown.current = replaceEqualDeep(shown.current, answer);
    showPlan(shown.current);
  }, []);
  const [fault, setFault] = useState<FieldFault | null>(null);
  const [brought, setBrought] = useState<Plan["brought"]>([]);
  const [saving, setSaving] = useState<Saving>("saved");
  const [theirs, setTheirs] = useState<{ version: number; document: Shot } | null>(null);
  const savedText = useRef("");
  const inFlight = useRef(false);
  const again = useRef<number | undefined>(undefined);
  const saveNow = useRef<() => Promise<void>>(async () => undefined);

  useEffect(() => {
    if (!loaded.data || company.isLoading) return;
    version.current = loaded.data.version;
    savedText.current = JSON.stringify(loaded.data.document);
    step({ do: "load", shot: loaded.data.document });
  }, [loaded.data, company.isLoading, step]);

  const planner = useInTurn();
  const present = history.current?.present ?? null;
  // The shot whose plan is on screen already, so that it is not asked for twice.
  const planned = useRef<Shot | null>(null);

  // What is being typed and not made yet; it is shown on top of whatever shot stands.
  const typing = useRef<DeskEdit | null>(null);

  const refused = useCallback((refusal: unknown) => {
    if (!(refusal instanceof Refused)) throw refusal;
    setFault({ field: refusal.path, message: refusal.message });
  }, []);

  /** Show the plan of a shot after edits that are not made yet; only the newest answer is shown. */
  const show = useCallback(
    async (shot: Shot, edits: DeskEdit[]) => {
      try {
        const answer = await planner.ask(() => planOf({ shot, edits }, beside.current));
        if (!answer) return;
        setPlan(answer);
        setFault(null);
      } catch (refusal) {
        refused(refusal);
      }
    },
    [planner, refused, setPlan],
  );

  useEffect(() => {
    if (!present || planned.current === present) return;
    planned.current = present;
    void show(present, typing.current ? [typing.current] : []);
  }, [present, show]);

  // Speeds are sent on demand alone.
  useEffect(() => {
    if (rates && history.current) void show(history.current.present, []);
  }, [rates, show]);

  const preview = useCallback(
    (edit: DeskEdit) => {
      typing.current = edit;
      if (history.current) void show(history.current.present, [edit]);
    },
    [show],
  );

  /** What a change makes of the shot that stands by then; asked again where something came in between. */
  const made = useCallback(async (change: (shot: Shot) => Omit<Question, "shot"> & { shot?: Shot }) => {
    for (;;) {
      const base = history.current?.present;
      if (!base) return null;
      const answer = await planOf({ shot: base, ...change(base) }, beside.current);
      if (history.current?.present === base) return answer;
    }
  }, []);

  // Who leaves the desk leaves nothing behind: neither what was just taken nor what still stands in a field.
  const gone = useRef(false);
  const flush = useCallback(() => {
    const shot = typing.current ? shown.current?.shot : history.current?.present;
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
  useEffect(() => {
    gone.current = false;
    window.addEventListener("pagehide", flush);
    return () => {
      window.removeEventListener("pagehide", flush);
      gone.current = true;
      typing.current = null;
      flush();
    };
  }, [flush]);

  const stand = useCallback(
    (answer: Plan) => {
      if (!typing.current) {
        planner.drop();
        planned.current = answer.shot;
        setPlan(answer);
      }
      setFault(null);
      setBrought(answer.brought);
      step({ do: "set", shot: answer.shot });
      if (gone.current) flush();
    },
    [planner, setPlan, step, flush],
  );

  /** Make an edit, after those that were made before it. False where it is refused. */
  const commit = useCallback(
    (edit: DeskEdit): Promise<boolean> =>
      inOrder(async () => {
        if (typing.current && place(typing.current) === place(edit)) typing.current = null;
        try {
          const answer = await made(() => ({ edits: [edit] }));
          if (answer) stand(answer);
          return answer !== null;
        } catch (refusal) {
          refused(refusal);
          return false;
        }
      }),
    [inOrder, made, refused, stand],
  );

  /**
   * Change the document of the shot, after all edits that were made before; what cannot be had then is
   * brought to the nearest that can. Returns what was refused, if anything was.
   */
  const put = useCallback(
    (change: (shot: Shot) => Shot): Promise<FieldFault | null> =>
      inOrder(async () => {
        try {
          const answer = await made((shot) => ({ shot: change(shot), edits: [], fit: true }));
          if (answer) stand(answer);
          return null;
        } catch (refusal) {
          if (refusal instanceof Refused) return { field: refusal.path, message: refusal.message };
          throw refusal;
        }
      }),
    [inOrder, made, stand],
  );

  const forget = useCallback(() => {
    typing.current = null;
    setFault(null);
    if (history.current) void show(history.current.present, []);
  }, [show]);

  /** Save what stands, and again while something else stands by then: one save at a time, the newest wins. */
  const save = useCallback(async () => {
    if (inFlight.current) return;
    inFlight.current = true;
    try {
      for (;;) {
        const shot = history.current?.present;
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
        setTheirs(error.current as { version: number; document: Shot });
        setSaving("elsewhere");
      } else if (error.status === 422) {
        setFault({ field: error.path, message: error.message });
        setSaving("refused");
      } else {
        setSaving("waiting");
        again.current = window.setTimeout(() => void saveNow.current(), RETRY_MS);
      }
    } finally {
      inFlight.current = false;
    }
  }, [id, queries]);
  saveNow.current = save;

  useEffect(() => {
    if (!present || theirs || JSON.stringify(present) === savedText.current) return;
    setSaving("saving");
    window.clearTimeout(again.current);
    const timer = window.setTimeout(() => void save(), 500);
    return () => window.clearTimeout(timer);
  }, [present, theirs, save]);

  /** Settle a shot that was saved elsewhere: keep what is here, or take what is there. */
  const settle = useCallback(
    (keep: "mine" | "theirs") => {
      if (!theirs) return;
      version.current = theirs.version;
      setTheirs(null);
      if (keep === "mine") void save();
      else {
        savedText.current = JSON.stringify(theirs.document);
        step({ do: "set", shot: theirs.document });
        setSaving("saved");
      }
    },
    [theirs, save, step],
  );

  /** The version that stands on the desk, once all of it is saved; null where it cannot be saved now. */
  const savedVersion = useCallback(
    () =>
      inOrder(async () => {
        await save();
        const shot = history.current?.present;
        return shot && JSON.stringify(shot) === savedText.current ? version.current : null;
      }),
    [inOrder, save],
  );

  return {
    loading: loaded.isLoading,
    missing: loaded.error,
    shot: present,
    plan,
    fault,
    saving,
    theirs,
    settle,
    savedVersion,
    preview,
    commit,
    put,
    forget,
    /** Take a fix: on the shot that it was offered for, which may hold what was just typed. */
    take: useCallback(
      (finding: string, label: string) =>
        inOrder(async () => {
          if (!shown.current) return;
          typing.current = null;
          const offeredFor = shown.current.shot;
          try {
            const answer = await planOf(
              { shot: offeredFor, edits: [{ track: "fix", finding, label }] },
              beside.current,
            );
            step({ do: "set", shot: offeredFor });
            stand(answer);
          } catch (refusal) {
            refused(refusal);
          }
        }),
      [inOrder, refused, stand, step],
    ),
    /** Put another document in the shot's place, as one step that undo takes back. */
    takeShot: useCallback(
      (shot: Shot) =>
        void inOrder(async () => {
          typing.current = null;
          setBrought([]);
          step({ do: "set", shot });
        }),
      [inOrder, step],
    ),
    brought,
    undo: useCallback(() => {
      setBrought([]);
      step({ do: "undo" });
    }, [step]),
    redo: useCallback(() => step({ do: "redo" }), [step]),
    canUndo: Boolean(history.current?.past.length),
    canRedo: Boolean(history.current?.future.length),
  };
}

/** What an edit is about: two of the same place replace each other. */
const place = (edit: DeskEdit) =>
  "field" in edit ? edit.field : `${edit.track}${("index" in edit && edit.index) ?? ""}`;

/** What is asked of the planner: a shot with edits, or a document that is to be made fit. */
interface Question {
  shot: Shot;
  edits: DeskEdit[];
  fit?: boolean;
}

const planOf = ({ shot, edits, fit = false }: Question, more: Beside) =>
  told(api.POST("/api/programs", { body: { shot, edits, fit, ...more } }));

/** Does one thing after the other, in the order in which they were asked for. */
function useInOrder() {
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return useCallback(<T>(work: () => Promise<T>): Promise<T> => {
    const mine = last.current.then(work, work);
    last.current = mine.catch(() => undefined);
    return mine;
  }, []);
}

export type DeskState = ReturnType<typeof useDesk>;

/**
 * Asks one thing at a time: while an answer is under way the newest question waits, and those that it
 * overtook are let go. So a drag is followed as fast as answers come, however fast the pointer is.
 */
function useInTurn() {
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
