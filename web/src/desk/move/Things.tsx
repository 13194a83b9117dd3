import { chakra, Flex } from "@chakra-ui/react";
import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import { moveEdit } from "../../api/moveEdit";
import { control } from "../../app/Field";
import { Action, Said } from "../../app/parts";
import type { LayerEdits } from "../../loom/LightLayer";
import type { DeskState } from "../useDesk";
import { RowAction, WordTable } from "../WordTable";

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
        <WordTable
          heads={HEADS}
          rows={rows}
          desk={desk}
          testId="things"
          actions={(index) => (
            <>
              {pulls && (
                <RowAction
                  aria-label={`Pull focus to ${rows[index]?.[0]?.text}`}
                  onClick={() => onPull(index, over)}
                >
                  Pull focus
                </RowAction>
              )}
              <RowAction
                aria-label={`Remove ${rows[index]?.[0]?.text}`}
                onClick={() => edits.commit(moveEdit("remove thing", { index }))}
              >
                Remove
              </RowAction>
            </>
          )}
        />
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
