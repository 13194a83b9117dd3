import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, Refused, type Schemas, told } from "../api/client";

type RunView = Schemas["RunView"];

/** A run as it stands, followed by server-sent events; `heard` is when the last word came. */
export function useRun(id: string) {
  const queries = useQueryClient();
  const [run, setRun] = useState<RunView | null>(null);
  const [heard, setHeard] = useState(() => performance.now());
  const [lost, setLost] = useState(false);
  // An event stream does not say why there is none.
  const first = useQuery({
    queryKey: ["run", id],
    queryFn: () => told(api.GET("/api/runs/{id}", { params: { path: { id } } })),
    retry: false,
  });
  const missing =
    first.error instanceof Refused && [404, 422].includes(first.error.status) ? first.error : null;
  useEffect(() => {
    if (missing) return;
    const events = new EventSource(`/api/runs/${id}/events`);
    events.addEventListener("run", (event) => {
      const view = JSON.parse(event.data) as RunView;
      setRun(view);
      setHeard(performance.now());
      setLost(false);
      if (view.state !== "armed" && view.state !== "running") {
        // What it is called for at its end comes a moment later.
        if (view.settled) events.close();
        void queries.invalidateQueries({ queryKey: ["runs"] });
      }
    });
    events.onerror = () => setLost(true);
    return () => events.close();
  }, [id, queries, missing]);
  return { run, heard, lost, missing, setRun };
}
