import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { asked, type Document, type Saved } from "./forms";

type Version = Schemas["RecordVersion"];

interface Routes {
  list: (archived: boolean) => Promise<unknown>;
  add: (body: Document) => Promise<unknown>;
  save: (body: Document, over: number, archived: boolean) => Promise<unknown>;
  remove: (id: string) => Promise<unknown>;
  history: (id: string) => Promise<Version[]>;
}

const over = (body: Document, version: number, archived: boolean) => ({
  path: { id: String(body.id) },
  query: { archived },
  header: { "If-Match": version },
});

/** How each kind of record is asked for and saved. */
const ROUTES: Record<"gear" | "places", Routes> = {
  gear: {
    list: (archived) => told(api.GET("/api/gear", { params: { query: { archived } } })),
    add: (body) => told(api.POST("/api/gear", { body: body as never })),
    save: (body, version, archived) =>
      told(api.PUT("/api/gear/{id}", { params: over(body, version, archived), body: body as never })),
    remove: (id) => told(api.DELETE("/api/gear/{id}", { params: { path: { id } } })),
    history: (id) => told(api.GET("/api/gear/{id}/history", { params: { path: { id } } })),
  },
  places: {
    list: (archived) => told(api.GET("/api/places", { params: { query: { archived } } })),
    add: (body) => told(api.POST("/api/places", { body: body as never })),
    save: (body, version, archived) =>
      told(api.PUT("/api/places/{id}", { params: over(body, version, archived), body: body as never })),
    remove: (id) => told(api.DELETE("/api/places/{id}", { params: { path: { id } } })),
    history: (id) => told(api.GET("/api/places/{id}/history", { params: { path: { id } } })),
  },
};

export interface RecordActs {
  save: (document: Document, over: number | null, archived: boolean) => Promise<void>;
  copy: (row: Saved) => void;
  remove: (row: Saved) => void;
  history: (id: string) => Promise<Version[]>;
  /** Why the last copy or deletion was refused, and of which record. */
  fault: { id: string; said: string } | null;
}

/** The records of a kind, with those that are put away where asked for, and what can be done with them. */
export function useRecords(kind: "gear" | "places") {
  const routes = ROUTES[kind];
  const queries = useQueryClient();
  const [all, setAll] = useState(false);
  const rows = useQuery({ queryKey: [kind, all], queryFn: () => routes.list(all) as Promise<Saved[]> });
  const refresh = () => queries.invalidateQueries({ queryKey: [kind] });
  const copy = useMutation({
    mutationFn: async (row: Saved) => {
      // What is saved is copied, not what the page saw last.
      const saved = ((await routes.list(true)) as Saved[]).find((one) => one.id === row.id) ?? row;
      return routes.add({
        ...asked(saved),
        id: crypto.randomUUID(),
        name: `${saved.document.name}, again`.slice(0, 80),
      });
    },
    onSuccess: refresh,
  });
  const remove = useMutation({ mutationFn: (row: Saved) => routes.remove(row.id), onSuccess: refresh });
  const failed = [copy, remove].find((one) => one.error);
  const acts: RecordActs = {
    save: async (document, version, archived) => {
      await (version === null ? routes.add(document) : routes.save(document, version, archived));
      await refresh();
    },
    copy: (row) => copy.mutate(row),
    remove: (row) => remove.mutate(row),
    history: routes.history,
    fault: failed?.error ? { id: failed.variables?.id ?? "", said: failed.error.message } : null,
  };
  return { rows: rows.data, error: rows.error, all, setAll, acts, refresh };
}
