import { replaceEqualDeep } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { api, type DeskEdit, type Plan, Refused, type Schemas, type Shot, told } from "../api/client";
import { useInTurn } from "./asking";

/** What a plan is asked for beside the shot. */
export interface Beside {
  neighbours: Schemas["Neighbour"][];
  rates: boolean;
}

/** What is asked of the planner: a shot with edits, or a document that is to be made fit. */
export interface Question {
  shot: Shot;
  edits: DeskEdit[];
  fit?: boolean;
}

/** A refusal that the desk shows beside the field that it names. */
export interface FieldFault {
  field: string;
  message: string;
}

/** The plan that is on screen, what was refused last, and the ways to ask for another. */
export function usePlanning(standing: () => Shot | null, beside: Beside) {
  const besideNow = useRef(beside);
  besideNow.current = beside;
  const planner = useInTurn();
  const [plan, showPlan] = useState<Plan | null>(null);
  const [fault, setFault] = useState<FieldFault | null>(null);
  const shown = useRef<Plan | null>(null);
  // The shot whose plan is on screen already, so that it is not asked for twice.
  const planned = useRef<Shot | null>(null);
  // What is the same in two answers keeps its identity, so that only what changes is drawn anew.
  const setPlan = useCallback((answer: Plan) => {
    shown.current = replaceEqualDeep(shown.current, answer);
    showPlan(shown.current);
  }, []);

  const refused = useCallback((refusal: unknown) => {
    if (!(refusal instanceof Refused)) throw refusal;
    setFault({ field: refusal.path, message: refusal.message });
  }, []);

  const planOf = useCallback(
    ({ shot, edits, fit = false }: Question) =>
      told(api.POST("/api/programs", { body: { shot, edits, fit, ...besideNow.current } })),
    [],
  );

  /** Show the plan of a shot after edits that are not made yet; only the newest answer is shown. */
  const show = useCallback(
    async (shot: Shot, edits: DeskEdit[]) => {
      planned.current = shot;
      try {
        const answer = await planner.ask(() => planOf({ shot, edits }));
        if (!answer) return;
        setPlan(answer);
        setFault(null);
      } catch (refusal) {
        refused(refusal);
      }
    },
    [planner, planOf, refused, setPlan],
  );

  /** Put an answer on screen as the plan of its shot; what was asked before is not wanted any more. */
  const stands = useCallback(
    (answer: Plan) => {
      planner.drop();
      planned.current = answer.shot;
      setPlan(answer);
    },
    [planner, setPlan],
  );

  /** What a change makes of the shot that stands by then; asked again where something came in between. */
  const made = useCallback(
    async (change: (shot: Shot) => Omit<Question, "shot"> & { shot?: Shot }) => {
      for (;;) {
        const base = standing();
        if (!base) return null;
        const answer = await planOf({ shot: base, ...change(base) });
        if (standing() === base) return answer;
      }
    },
    [planOf, standing],
  );

  return { plan, shown, planned, fault, setFault, refused, planOf, show, stands, made };
}
