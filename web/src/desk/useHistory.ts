import { useCallback, useReducer, useRef } from "react";
import type { Shot } from "../api/client";

interface History {
  past: Shot[];
  present: Shot;
  future: Shot[];
}

type Change = { do: "set"; shot: Shot } | { do: "undo" } | { do: "redo" } | { do: "load"; shot: Shot };

/** How many steps can be undone. */
const MOST = 200;

function walk(history: History | null, change: Change): History | null {
  if (change.do === "load") return { past: [], present: change.shot, future: [] };
  if (!history) return history;
  const { past, present, future } = history;
  if (change.do === "set") {
    if (JSON.stringify(change.shot) === JSON.stringify(present)) return history;
    return { past: [...past.slice(1 - MOST), present], present: change.shot, future: [] };
  }
  if (change.do === "undo") {
    const last = past.at(-1);
    return last ? { past: past.slice(0, -1), present: last, future: [present, ...future] } : history;
  }
  const next = future[0];
  return next ? { past: [...past, present], present: next, future: future.slice(1) } : history;
}

/**
 * One immutable document with what it was before, and what was undone.
 * What stands is known at once, not only when it has been drawn: edits follow each other faster than that.
 */
export function useHistory() {
  const history = useRef<History | null>(null);
  const [, redraw] = useReducer((drawn: number) => drawn + 1, 0);
  const step = useCallback((change: Change) => {
    const before = history.current;
    history.current = walk(before, change);
    if (history.current !== before) redraw();
  }, []);
  const standing = useCallback(() => history.current?.present ?? null, []);
  return {
    present: standing(),
    standing,
    step,
    canUndo: Boolean(history.current?.past.length),
    canRedo: Boolean(history.current?.future.length),
  };
}
