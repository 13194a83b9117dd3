import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { useForms } from "./forms";
import { KitFile } from "./KitFile";
import { RecordEditor } from "./RecordEditor";
import { PutAway, RecordList } from "./RecordList";
import { Usual } from "./Usual";
import { useRecords } from "./useRecords";

/** The gear that is owned, with the figures that findings are made of. */
export default function Kit() {
  const [open, setOpen] = useState<string | null>(null);
  const { rows, error, all, setAll, acts, refresh } = useRecords("gear");
  const forms = useForms();
  if (!rows || !forms.data) return <Waiting>{(error ?? forms.error)?.message}</Waiting>;
  return (
    <Shell title={<b>Kit</b>} tab="Kit" sub="What is owned, with the figures that findings are made of">
      <Flex gap="4" align="center" wrap="wrap">
        <PutAway all={all} onAll={setAll} />
        <KitFile onRead={refresh} />
      </Flex>
      <Usual />
      {forms.data
        .filter(({ kind }) => kind !== "place")
        .map((form) => (
          <Panel key={form.kind} title={form.title} mb="4">
            <RecordList
              rows={rows.filter((one) => one.document.kind === form.kind)}
              open={open === `new ${form.kind}` ? "new" : open}
              onOpen={(id) => setOpen(id === "new" ? `new ${form.kind}` : id)}
              form={form}
              acts={acts}
              editor={(row) => (
                <RecordEditor
                  key={row?.version}
                  record={row}
                  form={form}
                  fresh={{ id: crypto.randomUUID(), kind: form.kind }}
                  onSave={acts.save}
                  onDone={() => setOpen(null)}
                />
              )}
            />
          </Panel>
        ))}
    </Shell>
  );
}
