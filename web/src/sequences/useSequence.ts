import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, Refused, type Schemas, told } from "../api/client";

export type Sequence = Schemas["ShotSequence"];
export type View = Schemas["SequenceView"];

/** How a change is made of the sequence that stands by then: the server answers with all that follows. */
type Make = (now: Sequence) => Promise<View>;

export interface SequenceActs {
  view: View | null;
  fault: Refused | null;
  saving: boolean;
  /** Values as they were typed, by path. */
  type: (typed: Record<string, string>) => void;
  /** Another sequence in place of this one. */
  take: (sequence: Sequence | ((now: Sequence) => Sequence)) => void;
  put: (shots: string[], at: number) => void;
  read: (file: File) => void;
  undo: () => void;
  redo: () => void;
  /** After somebody else has saved: what is here over it, or what is there. */
  settle: (mine: boolean) => void;
}

const plan = (sequence: Sequence, typed: Record<string, string> = {}) =>
  told(api.POST("/api/sequences/plan", { body: { sequence, typed } }));

/** A sequence on its page: changes are made and saved in order, one after the other; none is lost to a slow answer. */
export function useSequence(id: string): SequenceActs & { missing: string | undefined } {
  const queries = useQueryClient();
  const stored = useQuery({
    queryKey: ["sequence", id],
    queryFn: () => told(api.GET("/api/sequences/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const [view, setView] = useState<View | null>(null);
  const [fault, setFault] = useState<Refused | null>(null);
  const [saving, setSaving] = useState(false);
  const now = useRef<Sequence | null>(null);
  const version = useRef(0);
  const archived = useRef(false);
  const past = useRef<Sequence[]>([]);
  const ahead = useRef<Sequence[]>([]);
  const queue = useRef<Promise<unknown>>(Promise.resolve());

  const inOrder = useCallback((job: () => Promise<void>) => {
    queue.current = queue.current.then(async () => {
      setSaving(true);
      try {
        await job();
        setFault(null);
      } catch (error) {
        setFault(error instanceof Refused ? error : new Refused("", String(error), 0));
      } finally {
        setSaving(false);
      }
    });
  }, []);

  const save = useCallback(async () => {
    if (!now.current) return;
    const saved = await told(
      api.PUT("/api/sequences/{id}", {
        params: {
          path: { id },
          query: { archived: archived.current },
          header: { "If-Match": version.current },
        },
        body: now.current,
      }),
    );
    version.current = saved.version;
    void queries.invalidateQueries({ queryKey: ["sequences"] });
  }, [id, queries]);

  const show = useCallback((made: View) => {
    now.current = made.sequence;
    setView(made);
  }, []);

  const act = useCallback(
    (make: Make) =>
      inOrder(async () => {
        const before = now.current;
        if (!before) return;
        const made = await make(before);
        past.current.push(before);
        ahead.current = [];
        show(made);
        await save();
      }),
    [inOrder, save, show],
  );

  useEffect(() => {
    if (!stored.data) return;
    const { document, version: read, archived: away } = stored.data;
    version.current = read;
    archived.current = away;
    inOrder(async () => show(await plan(document)));
  }, [stored.data, inOrder, show]);

  const step = useCallback(
    (from: typeof past, to: typeof past) =>
      inOrder(async () => {
        const wanted = from.current.pop();
        if (!wanted || !now.current) return;
        to.current.push(now.current);
        show(await plan(wanted));
        await save();
      }),
    [inOrder, save, show],
  );

  return {
    view,
    fault,
    saving,
    missing: stored.error?.message,
    type: useCallback((typed) => act((sequence) => plan(sequence, typed)), [act]),
    take: useCallback(
      (next) => act((sequence) => plan(typeof next === "function" ? next(sequence) : next)),
      [act],
    ),
    put: useCallback(
      (shots, at) =>
        act((sequence) => told(api.POST("/api/sequences/put", { body: { sequence, shots, at } }))),
      [act],
    ),
    read: useCallback(
      (file) =>
        act(async (sequence) => {
          const kind = file.name.toLowerCase().endsWith(".csv") ? "csv" : "otio";
          return told(api.POST("/api/sequences/read", { body: { sequence, kind, text: await file.text() } }));
        }),
      [act],
    ),
    undo: useCallback(() => step(past, ahead), [step]),
    redo: useCallback(() => step(ahead, past), [step]),
    settle: useCallback(
      (mine) =>
        inOrder(async () => {
          const theirs = await told(api.GET("/api/sequences/{id}", { params: { path: { id } } }));
          version.current = theirs.version;
          if (mine) await save();
          else show(await plan(theirs.document));
        }),
      [id, inOrder, save, show],
    ),
  };
}
