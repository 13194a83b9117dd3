import { Box, chakra, Flex } from "@chakra-ui/react";
import { memo, useCallback, useEffect, useRef } from "react";
import { api, type DeskEdit, type Plan, type Schemas, type Shot, told } from "../../api/client";
import { moveEdit } from "../../api/moveEdit";
import { Action, Offer, Panel, Said } from "../../app/parts";
import type { LayerEdits } from "../../loom/LightLayer";
import { useOnceQuiet } from "../asking";
import type { DeskState } from "../useDesk";
import { RowAction, WordTable } from "../WordTable";
import { Files } from "./Files";
import { MoveTable } from "./MoveTable";
import { Things } from "./Things";

type PanelOf = Schemas["MovePanel"];
type MoveEdit = Schemas["MoveEdit"];

const ALL: { action: MoveEdit["action"]; name: string; key: string }[] = [
  { action: "mirror", name: "Mirror", key: "m" },
  { action: "reverse", name: "Reverse", key: "v" },
  { action: "stretch", name: "Stretch to the shot", key: "t" },
  { action: "snap", name: "Snap to frames", key: "n" },
];

/** What belongs to the move and has no place on the loom: the table, the keys, moves to begin with. */
export function MovePanel(props: {
  desk: DeskState;
  plan: Plan;
  number: number;
  at: number;
  edits: LayerEdits;
}) {
  const { desk, plan, number, at, edits } = props;
  const wanted = Math.min(number, plan.solved.frame_count);
  // The table stands for the frame that it was asked for.
  const tableAt = Math.round(at);
  const { answer: panel, refused } = useOnceQuiet<PanelOf>(
    (signal) => told(api.POST("/api/programs/move", { body: { shot: plan.shot, number: wanted }, signal })),
    [plan, wanted],
  );
  useMoveKeys((one) => edits.commit(one), at);
  const now = useRef({ at, shot: plan.shot });
  now.current = { at, shot: plan.shot };
  const addKey = useCallback(() => edits.commit(moveEdit("set", { at_s: now.current.at })), [edits]);
  const pull = useCallback(
    (index: number, over: string) => edits.commit(moveEdit("pull", { index, at_s: now.current.at, over })),
    [edits],
  );
  const shotNow = useCallback(() => now.current.shot, []);
  if (!panel) return refused ? <Said>{refused}</Said> : null;
  return (
    <Shown
      desk={desk}
      panel={panel}
      tableAt={tableAt}
      edits={edits}
      onKey={addKey}
      onPull={pull}
      shotNow={shotNow}
    />
  );
}

interface ShownProps {
  desk: DeskState;
  panel: PanelOf;
  tableAt: number;
  edits: LayerEdits;
  onKey: () => void;
  onPull: (thing: number, over: string) => void;
  shotNow: () => Shot;
}

// Hundreds of fields: drawn anew when their words or a refusal change, not with every plan of a drag.
const sameShown = (a: ShownProps, b: ShownProps) =>
  a.panel === b.panel && a.tableAt === b.tableAt && a.edits === b.edits && a.desk.fault === b.desk.fault;

const Shown = memo(function Shown({ desk, panel, tableAt, edits, onKey, onPull, shotNow }: ShownProps) {
  const moves = panel.axes.length > 0;
  return (
    <Box data-testid="move-panel">
      <Panel title="The move table" mb="4">
        <MoveTable table={panel.table} at={tableAt} edits={edits} />
        {panel.table.told.map((line) => (
          <chakra.p key={line} fontSize="14px" mt="1.5">
            {line}
          </chakra.p>
        ))}
        <Things
          rows={panel.things}
          desk={desk}
          edits={edits}
          pulls={panel.axes.includes("focus")}
          onPull={onPull}
        />
      </Panel>
      {moves && (
        <Panel title="Keys" mb="4" overflowX="auto">
          <Keys desk={desk} panel={panel} edits={edits} />
          <Flex gap="2" mt="3" wrap="wrap">
            <Action onClick={onKey} data-testid="add-key">
              Key at this frame
            </Action>
            {ALL.map(({ action, name }) => (
              <Action
                key={action}
                disabled={!panel.keys.length}
                data-move={action}
                onClick={() => edits.commit(moveEdit(action))}
              >
                {name}
              </Action>
            ))}
          </Flex>
          <Files
            about="move"
            label="Keys from CSV …"
            accept=".csv,text/csv"
            testId="keys-file"
            onRead={(shot, csv) => told(api.POST("/api/programs/keys", { body: { shot, csv } }))}
            shotNow={shotNow}
            onTake={desk.takeShot}
          />
        </Panel>
      )}
      {panel.turns.length > 0 && (
        <Panel
          title={`It turns round ${panel.turns.length === 1 ? "once" : `${panel.turns.length} times`}`}
          mb="4"
        >
          <chakra.p className="figure" fontSize="14px" data-testid="turns">
            {panel.turns.join(" · ")}
          </chakra.p>
          <chakra.p fontSize="14px" color="inkSoft">
            Times of the film; cut elsewhere.
          </chakra.p>
        </Panel>
      )}
      <Presets presets={panel.presets} onTake={desk.takeShot} />
    </Box>
  );
}, sameShown);

const Presets = memo(function Presets(props: { presets: PanelOf["presets"]; onTake: (shot: Shot) => void }) {
  const { presets, onTake } = props;
  return (
    <Panel title="Moves to begin with">
      <Flex gap="2" wrap="wrap">
        {presets.map((one) => (
          <Offer
            key={one.name}
            data-preset={one.name}
            maxW="260px"
            label={one.name}
            told={one.told || (one.missing ?? "")}
            disabled={!one.shot}
            onClick={() => one.shot && onTake(one.shot)}
          />
        ))}
      </Flex>
    </Panel>
  );
});

interface KeysProps {
  desk: DeskState;
  panel: PanelOf;
  edits: LayerEdits;
}

// A hundred fields: drawn anew when their words or a refusal change, not with every step of the plumb line.
const sameKeys = (a: KeysProps, b: KeysProps) =>
  a.panel.keys === b.panel.keys &&
  a.panel.axes === b.panel.axes &&
  a.edits === b.edits &&
  a.desk.fault === b.desk.fault;

const Keys = memo(function Keys({ desk, panel, edits }: KeysProps) {
  if (!panel.keys.length)
    return (
      <chakra.p fontSize="14px">
        No key yet: set one at the plumb line, drag the camera on the table, or begin with one of the moves
        below.
      </chakra.p>
    );
  return (
    <WordTable
      heads={["key", "moment", "clock", ...panel.axes, "holds", "ease in", "ease away"]}
      rows={panel.keys.map((row) => row.words)}
      desk={desk}
      testId="keys"
      numbered
      beside={(row) => panel.keys[row]?.clock}
      actions={(index) => (
        <>
          <RowAction
            aria-label={`Copy key ${index + 1}`}
            onClick={() => edits.commit(moveEdit("duplicate", { index }))}
          >
            Copy
          </RowAction>
          <RowAction
            aria-label={`Remove key ${index + 1}`}
            onClick={() => edits.commit(moveEdit("remove", { index }))}
          >
            Remove
          </RowAction>
        </>
      )}
    />
  );
}, sameKeys);

/** The keyboard's way to everything: a sets a key at the plumb line, the others change all keys. */
function useMoveKeys(commit: (one: DeskEdit) => void, at: number) {
  const now = useRef({ commit, at });
  now.current = { commit, at };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.target instanceof Element && event.target.matches("input, select, textarea")) return;
      if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("[role=dialog]")) return;
      const all = ALL.find(({ key }) => key === event.key);
      const at_s = now.current.at;
      if (event.key === "a") now.current.commit(moveEdit("set", { at_s }));
      else if (event.key === "d") now.current.commit(moveEdit("duplicate", { at_s }));
      else if (event.key === "Delete") now.current.commit(moveEdit("remove", { at_s }));
      else if (all) now.current.commit(moveEdit(all.action));
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
