import { type PointerEvent, useRef } from "react";

interface Held<T> {
  base: T;
  x: number;
  y: number;
  moved: boolean;
}

/** Follows a pressed pointer: what stood where it was pressed, how far it has gone, and when it is let go. */
export function useDrag<T>(base: T, onDrag: (base: T, dx: number, dy: number, end: boolean) => void) {
  const held = useRef<Held<T> | null>(null);
  return {
    onPointerDown: (event: PointerEvent) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = { base, x: event.clientX, y: event.clientY, moved: false };
    },
    onPointerMove: (event: PointerEvent) => {
      const now = held.current;
      if (!now) return;
      event.stopPropagation();
      now.moved ||= Math.hypot(event.clientX - now.x, event.clientY - now.y) > 2;
      if (now.moved) onDrag(now.base, event.clientX - now.x, event.clientY - now.y, false);
    },
    onPointerUp: (event: PointerEvent) => {
      const now = held.current;
      if (!now) return;
      event.stopPropagation();
      held.current = null;
      if (now.moved) onDrag(now.base, event.clientX - now.x, event.clientY - now.y, true);
    },
  };
}
