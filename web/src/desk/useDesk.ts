import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, type DeskEdit, type Plan, Refused, type Schemas, type Shot, told } from "../api/client";
import { useInOrder } from "./asking";
import type { Other } from "./beside";
import { useHistory } from "./useHistory";
import { type FieldFault, usePlanning } from "./usePlanning";
import { useSaving } from "./useSaving";

const NOBODY: Schemas["Neighbour"][] = [];

/**
 * The shot on the desk: one immutable document with its history, its compiled plan, and its saving.
 * While something is typed, `preview` shows the plan of the text so far; `commit` makes it an edit.
 */
export function useDesk(id: string, rates: boolean) {
  const stored = useQuery({
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
  const { present, standing, step, canUndo, canRedo } = useHistory();
  const inOrder = useInOrder();
  const { plan, shown, planned, fault, setFault, refused, planOf, show, stands, made } = usePlanning(
    standing,
    {
      neighbours: company.data ?? NOBODY,
      rates,
    },
  );
  const [brought, setBrought] = useState<Plan["brought"]>([]);
  // What is being typed and not made yet; it is shown on top of whatever shot stands.
  const typing = useRef<DeskEdit | null>(null);
  const { saving, theirs, loaded, flush, settle, savedVersion } = useSaving({
    id,
    present,
    standing,
    leaving: useCallback(
      () => (typing.current ? (shown.current?.shot ?? null) : standing()),
      [shown, standing],
    ),
    onRefused: refused,
  });

  useEffect(() => {
    if (!stored.data || company.isLoading) return;
    loaded(stored.data);
    step({ do: "load", shot: stored.data.document });
  }, [stored.data, company.isLoading, loaded, step]);

  useEffect(() => {
    if (present && planned.current !== present) void show(present, typing.current ? [typing.current] : []);
  }, [present, planned, show]);

  // Speeds are sent on demand alone.
  useEffect(() => {
    const shot = standing();
    if (rates && shot) void show(shot, []);
  }, [rates, show, standing]);

  const preview = useCallback(
    (edit: DeskEdit) => {
      typing.current = edit;
      const shot = standing();
      if (shot) void show(shot, [edit]);
    },
    [show, standing],
  );

  const forget = useCallback(() => {
    typing.current = null;
    setFault(null);
    const shot = standing();
    if (shot) void show(shot, []);
  }, [setFault, show, standing]);

  // Who leaves the desk leaves nothing behind: neither what was just taken nor what still stands in a field.
  const gone = useRef(false);
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
      if (!typing.current) stands(answer);
      setFault(null);
      setBrought(answer.brought);
      step({ do: "set", shot: answer.shot });
      if (gone.current) flush();
    },
    [stands, setFault, step, flush],
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
    (change: (shot: Shot) => Shot, edits: DeskEdit[] = []): Promise<FieldFault | null> =>
      inOrder(async () => {
        try {
          const answer = await made((shot) => ({ shot: change(shot), edits, fit: true }));
          if (answer) stand(answer);
          return null;
        } catch (refusal) {
          if (refusal instanceof Refused) return { field: refusal.path, message: refusal.message };
          throw refusal;
        }
      }),
    [inOrder, made, stand],
  );

  return {
    loading: stored.isLoading,
    missing: stored.error,
    shot: present,
    plan,
    neighbours: company.data ?? NOBODY,
    fault,
    saving,
    theirs,
    /** Settle a shot that was saved elsewhere: keep what is here, or take what is there. */
    settle: useCallback(
      (keep: "mine" | "theirs") => {
        const shot = settle(keep);
        if (shot) step({ do: "set", shot });
      },
      [settle, step],
    ),
    savedVersion: useCallback(() => inOrder(savedVersion), [inOrder, savedVersion]),
    preview,
    commit,
    put,
    forget,
    /** Take a fix: on the shot that it was offered for, which may hold what was just typed. */
    take: useCallback(
      (finding: string, fix: string) =>
        inOrder(async () => {
          if (!shown.current) return;
          typing.current = null;
          const offeredFor = shown.current.shot;
          try {
            const answer = await planOf({ shot: offeredFor, edits: [{ track: "fix", finding, fix }] });
            step({ do: "set", shot: offeredFor });
            stand(answer);
          } catch (refusal) {
            refused(refusal);
          }
        }),
      [inOrder, planOf, refused, shown, stand, step],
    ),
    /** Keep another way beside the shot; why it was refused, if it was. */
    keepBeside: useCallback(
      (what: Other): Promise<string> =>
        inOrder(async () => {
          const shot = standing();
          if (!shot) return "";
          try {
            const neighbours = company.data ?? NOBODY;
            const kept = await told(
              api.POST("/api/ways/beside", { body: { shot, neighbours, edits: [], name: "", ...what } }),
            );
            step({ do: "set", shot: kept });
            return "";
          } catch (refusal) {
            if (refusal instanceof Refused) return refusal.message;
            throw refusal;
          }
        }),
      [inOrder, company.data, standing, step],
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
    canUndo,
    canRedo,
  };
}

/** What an edit is about: two of the same place replace each other. */
const place = (edit: DeskEdit) =>
  "field" in edit ? edit.field : `${edit.track}${("index" in edit && edit.index) ?? ""}`;

export type DeskState = ReturnType<typeof useDesk>;
