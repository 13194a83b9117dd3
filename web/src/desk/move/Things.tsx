import { chakra, Flex } from "@chakra-ui/react";
import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import { moveEdit } from "../../api/moveEdit";
import { control } from "../../app/Field";
import { Action, Said } from "../../app/parts";
import type { LayerEdits } from "../../loom/LightLayer";
import { Cell, Head } from "../cells";
import { Value } from "../Sentence";
import type { DeskState } from "../useDesk";

type Word = Schemas["Word"];

const HEADS = ["name", "is", "to the right", "ahead", "wide", "high", "foot above lens"];

interface ThingsProps {
  rows: Word[][];
  desk: DeskState;
  edits: LayerEdits;
  pulls: boolean;
  onPull: (thing: number, over: string) => void;
}

const sameThings = (a: ThingsProps, b: ThingsProps) =>
  a.rows === b.rows && a.edits === b.edits && a.pulls === b.pulls && a.desk.fault === b.desk.fault;

/** What stands before the camera: subjects, foreground, background, with their places on the table. */
export const Things = memo(function Things({ rows, desk, edits, pulls, onPull }: ThingsProps) {
  const [over, setOver] = useState("2 s");
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
                    {pulls && (
                      <Action
                        minH="8"
                        px="2.5"
                        mr="1"
                        aria-label={`Pull focus to ${words[0]?.text}`}
                        onClick={() => onPull(index, over)}
                      >
                        Pull focus
                      </Action>
                    )}
                    <Action
                      minH="8"
                      px="2.5"
                      aria-label={`Remove ${words[0]?.text}`}
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
      {desk.fault?.field === "move.pull" && <Said>{desk.fault.message}</Said>}
      <Flex mt="2" gap="4" align="center" wrap="wrap">
        <Action onClick={() => edits.commit(moveEdit("add thing"))}>Add a thing</Action>
        {pulls && rows.length > 0 && (
          <chakra.label display="inline-flex" gap="2" alignItems="center" fontSize="14px" color="inkSoft">
            Focus is pulled from the plumb line on, within
            <chakra.input
              {...control}
              className="figure"
              name="pull-over"
              width="80px"
              autoComplete="off"
              value={over}
              onChange={(event) => setOver(event.target.value)}
            />
            of the film
          </chakra.label>
        )}
      </Flex>
    </chakra.details>
  );
}, sameThings);
