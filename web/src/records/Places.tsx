import { useState } from "react";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { useForms } from "./forms";
import { RecordEditor } from "./RecordEditor";
import { PutAway, RecordList } from "./RecordList";
import { useRecords } from "./useRecords";

/** The places where shots are taken. */
export default function Places() {
  const [open, setOpen] = useState<string | null>(null);
  const { rows, error, all, setAll, acts } = useRecords("places");
  const forms = useForms();
  const form = forms.data?.find(({ kind }) => kind === "place");
  if (!rows || !form) return <Waiting>{(error ?? forms.error)?.message}</Waiting>;
  return (
    <Shell title={<b>Places</b>} tab="Places" sub="Where the sky is computed for">
      <PutAway all={all} onAll={setAll} />
      <Panel>
        <RecordList
          rows={rows}
          open={open}
          onOpen={setOpen}
          form={form}
          acts={acts}
          editor={(row) => (
            <RecordEditor
              key={row?.version}
              record={row}
              form={form}
              fresh={{
                id: crypto.randomUUID(),
                time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
              }}
              onSave={acts.save}
              onDone={() => setOpen(null)}
            />
          )}
        />
      </Panel>
    </Shell>
  );
}
