import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { type Saved, useForms } from "./forms";
import { RecordEditor } from "./RecordEditor";
import { RecordList } from "./RecordList";

/** The places where shots are taken. */
export default function Places() {
  const queries = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const places = useQuery({ queryKey: ["places"], queryFn: () => told(api.GET("/api/places")) });
  const forms = useForms();
  const form = forms.data?.find(({ kind }) => kind === "place");
  const missing = places.error ?? forms.error;
  if (!places.data || !form) return <Waiting>{missing?.message}</Waiting>;
  const save = async (document: unknown, over: number | null, archived: boolean) => {
    const body = document as Schemas["Place"];
    await (over === null
      ? told(api.POST("/api/places", { body }))
      : told(
          api.PUT("/api/places/{id}", {
            params: { path: { id: String(body.id) }, query: { archived }, header: { "If-Match": over } },
            body,
          }),
        ));
    await queries.invalidateQueries({ queryKey: ["places"] });
  };
  return (
    <Shell title={<b>Places</b>} tab="Places" sub="Where the sky is computed for">
      <Panel>
        <RecordList
          rows={places.data as unknown as Saved[]}
          open={open}
          onOpen={setOpen}
          form={form}
          editor={(row) => (
            <RecordEditor
              key={row?.version}
              record={row}
              form={form}
              fresh={{
                id: crypto.randomUUID(),
                time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
              }}
              onSave={save}
              onDone={() => setOpen(null)}
            />
          )}
        />
      </Panel>
    </Shell>
  );
}
