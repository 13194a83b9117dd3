import { useEffect } from "react";

/** What the browser's tab says while something is shown. */
export function useTitle(text: string) {
  useEffect(() => {
    document.title = text ? `${text} · Revani` : "Revani";
  }, [text]);
}
