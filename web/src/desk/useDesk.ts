import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useReducer, useRef, useState } from "react";
import { api, type Edit, type Plan, Refused, type Shot, told } from "../api/client";

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

/**
 * The shot on the desk: one immutable document with its history, its compiled plan, and its saving.
 * While something is typed, `preview` shows the plan of the text so far; `commit` makes it an edit.
 */
export function useDesk(id: string) {
  const queries = useQueryClient();
  const loaded = useQuery({
    queryKey: ["shot", id],
    queryFn: () => told(api.GET("/api/shots/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnWindowFocus: false,
  });
  const [history, step] = useReducer(walk, null);
  const version = useRef(0);
  const [plan, setPlan] = useState<Plan | null>(null);
  const [fault, setFault] = useState<FieldFault | null>(null);
  const [saving, setSaving] = useState<Saving>("saved");
  const [theirs, setTheirs] = useState<{ version: number; document: Shot } | null>(null);
  const savedText = useRef("");

  useEffect(() => {
    if (!loaded.data) return;
    version.current = loaded.data.version;
    savedText.current = JSON.stringify(loaded.data.document);
    step({ do: "load", shot: loaded.data.document });
  }, [loaded.data]);

  const planner = useLatest();
  const present = history?.present ?? null;

  /** Plan a shot after edits; only the newest answer is shown. Returns the shot, or null if refused. */
  const ask = useCallback(
    async (shot: Shot, edits: Edit[], show = true): Promise<Shot | null> => {
      try {
        const answer = await planner((signal) =>
          told(api.POST("/api/programs", { body: { shot, edits }, signal })),
        );
        if (!answer) return null;
        if (show) setPlan(answer);
        setFault(null);
        return answer.shot;
      } catch (refusal) {
        if (refusal instanceof Refused) setFault({ field: refusal.path, message: refusal.message });
        return null;
      }
    },
    [planner],
  );

  useEffect(() => {
    if (present) void ask(present, []);
  }, [present, ask]);

  const preview = useCallback(
    (edit: Edit) => {
      if (present) void ask(present, [edit]);
    },
    [present, ask],
  );

  const commit = useCallback(
    async (edit: Edit): Promise<boolean> => {
      if (!present) return false;
      const shot = await ask(present, [edit]);
      if (shot) step({ do: "set", shot });
      return shot !== null;
    },
    [present, ask],
  );

  const forget = useCallback(() => {
    setFault(null);
    if (present) void ask(present, []);
  }, [present, ask]);

  const save = useMutation({
    mutationFn: (shot: Shot) =>
      told(
        api.PUT("/api/shots/{id}", {
          params: { path: { id }, header: { "If-Match": version.current } },
          body: shot,
        }),
      ),
    onSuccess: (saved, shot) => {
      version.current = saved.version;
      savedText.current = JSON.stringify(shot);
      setSaving("saved");
      void queries.invalidateQueries({ queryKey: ["shots"] });
    },
    onError: (error, shot) => {
      if (error instanceof Refused && error.status === 409) {
        setTheirs(error.current as { version: number; document: Shot });
        setSaving("elsewhere");
      } else if (error instanceof Refused && error.status === 422) {
        setFault({ field: error.path, message: error.message });
        setSaving("refused");
      } else {
        setSaving("waiting");
        window.setTimeout(() => save.mutate(shot), 2_000);
      }
    },
  });

  const { mutate } = save;
  useEffect(() => {
    if (!present || theirs || JSON.stringify(present) === savedText.current) return;
    setSaving("saving");
    const timer = window.setTimeout(() => mutate(present), 500);
    return () => window.clearTimeout(timer);
  }, [present, theirs, mutate]);

  /** Settle a shot that was saved elsewhere: keep what is here, or take what is there. */
  const settle = useCallback(
    (keep: "mine" | "theirs") => {
      if (!theirs || !present) return;
      version.current = theirs.version;
      setTheirs(null);
      if (keep === "mine") mutate(present);
      else {
        savedText.current = JSON.stringify(theirs.document);
        step({ do: "set", shot: theirs.document });
        setSaving("saved");
      }
    },
    [theirs, present, mutate],
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
    preview,
    commit,
    forget,
    set: useCallback((shot: Shot) => step({ do: "set", shot }), []),
    undo: useCallback(() => step({ do: "undo" }), []),
    redo: useCallback(() => step({ do: "redo" }), []),
    canUndo: Boolean(history?.past.length),
    canRedo: Boolean(history?.future.length),
  };
}

export type DeskState = ReturnType<typeof useDesk>;

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
