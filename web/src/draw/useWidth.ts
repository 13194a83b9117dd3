import { type RefObject, useEffect, useState } from "react";

/** How wide a box is, in whole pixels; 0 until it is known. */
export function useWidth(box: RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!box.current) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)));
    observer.observe(box.current);
    return () => observer.disconnect();
  }, [box]);
  return width;
}
