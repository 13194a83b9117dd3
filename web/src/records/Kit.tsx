import { chakra } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { type Saved, useForms } from "./forms";
import { RecordEditor } from "./RecordEditor";
import { RecordList } from "./RecordList";

type Gear = Schemas["SavedGear"]["document"];

/** The gear that is owned, with the figures that findings are made of. */
export default function Kit() {
  const queries = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const [all, setAll] = useState(false);
  const gear = useQuery({
    queryKey: ["gear", all],
    queryFn: () => told(api.GET("/api/gear", { params: { query: { archived: all } } })),
  });
  const forms = useForms();
  const missing = gear.error ?? forms.error;
  if (!gear.data || !forms.data) return <Waiting>{missing?.message}</Waiting>;
  const save = async (document: unknown, over: number | null, archived: boolean) => {
    const body = document as Gear;
    await (over === null
      ? told(api.POST("/api/gear", { body }))
      : told(
          api.PUT("/api/gear/{id}", {
            params: { path: { id: String(body.id) }, query: { archived }, header: { "If-Match": over } },
            body,
          }),
        ));
    await queries.invalidateQueries({ queryKey: ["gear"] });
  };
  const rows = gear.data as unknown as Saved[];
  return (
    <Shell title={<b>Kit</b>} tab="Kit" sub="What is owned, with the figures that findings are made of">
      <chakra.label display="flex" gap="2" alignItems="center" mb="3" color="inkSoft">
        <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} /> Show what
        is put away
      </chakra.label>
      {forms.data
        .filter(({ kind }) => kind !== "place")
        .map((form) => (
          <Panel key={form.kind} title={form.title} mb="4">
            <RecordList
              rows={rows.filter((one) => one.document.kind === form.kind)}
              open={open === `new ${form.kind}` ? "new" : open}
              onOpen={(id) => setOpen(id === "new" ? `new ${form.kind}` : id)}
              form={form}
              editor={(row) => (
                <RecordEditor
                  key={row?.version}
                  record={row}
                  form={form}
                  fresh={{ id: crypto.randomUUID(), kind: form.kind }}
                  onSave={save}
                  onDone={() => setOpen(null)}
                />
              )}
            />
          </Panel>
        ))}
    </Shell>
  );
}
