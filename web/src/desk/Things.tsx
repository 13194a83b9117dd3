import { chakra } from "@chakra-ui/react";
import { memo } from "react";
import type { Schemas } from "../api/client";
import { moveEdit } from "../api/moveEdit";
import { Action } from "../app/parts";
import type { LayerEdits } from "../loom/LightLayer";
import { Cell, Head } from "./cells";
import { Value } from "./Sentence";
import type { DeskState } from "./useDesk";

type Word = Schemas["Word"];

const HEADS = ["name", "is", "to the right", "ahead", "wide", "high", "foot above the lens"];

interface ThingsProps {
  rows: Word[][];
  desk: DeskState;
  edits: LayerEdits;
}

const sameThings = (a: ThingsProps, b: ThingsProps) =>
  a.rows === b.rows && a.edits === b.edits && a.desk.fault === b.desk.fault;

/** What stands before the camera: subjects, foreground, background, with their places on the table. */
export const Things = memo(function Things({ rows, desk, edits }: ThingsProps) {
  return (
    <chakra.details mt="3">
      <chakra.summary cursor="pointer" fontWeight="600">
        What stands before the camera ({rows.length})
      </chakra.summary>
      {rows.length > 0 && (
        <chakra.div overflowX="auto">
          <chakra.table fontSize="15px" mt="2" data-testid="things">
            <thead>
              <tr>
                {HEADS.map((name) => (
                  <Head key={name}>{name}</Head>
                ))}
                <Head />
              </tr>
            </thead>
            <tbody>
              {rows.map((words, index) => (
                <chakra.tr key={words[0]?.field} borderTop="1px solid" borderColor="line">
                  {words.map((word) => (
                    <Cell key={word.field}>
                      <Value word={{ ...word, field: word.field ?? "" }} desk={desk} />
                    </Cell>
                  ))}
                  <Cell>
                    <Action
                      minH="8"
                      px="2.5"
                      onClick={() => edits.commit(moveEdit("remove thing", { index }))}
                    >
                      Remove
                    </Action>
                  </Cell>
                </chakra.tr>
              ))}
            </tbody>
          </chakra.table>
        </chakra.div>
      )}
      <Action mt="2" onClick={() => edits.commit(moveEdit("add thing"))}>
        Add a thing
      </Action>
    </chakra.details>
  );
}, sameThings);
