import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";

type RunView = Schemas["RunView"];

/** A run as it stands, followed by server-sent events; `heard` is when the last word came. */
export function useRun(id: string) {
  const queries = useQueryClient();
  const [run, setRun] = useState<RunView | null>(null);
  const [heard, setHeard] = useState(() => performance.now());
  const [lost, setLost] = useState(false);
  useEffect(() => {
    const events = new EventSource(`/api/runs/${id}/events`);
    events.addEventListener("run", (event) => {
      const view = JSON.parse(event.data) as RunView;
      setRun(view);
      setHeard(performance.now());
      setLost(false);
      if (view.state !== "armed" && view.state !== "running") {
        events.close();
        void queries.invalidateQueries({ queryKey: ["runs"] });
      }
    });
    events.onerror = () => setLost(true);
    return () => events.close();
  }, [id, queries]);
  return { run, heard, lost, setRun };
}
