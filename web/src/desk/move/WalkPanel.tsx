import { Box, chakra } from "@chakra-ui/react";
import { memo, useRef, useState } from "react";
import { api, type DeskEdit, type Plan, type Schemas, told } from "../../api/client";
import { Action, Panel, Said } from "../../app/parts";
import type { LayerEdits } from "../../loom/LightLayer";
import { useOnceQuiet } from "../asking";
import { Cell, Head } from "../cells";
import type { DeskState } from "../useDesk";
import { RowAction, WordTable } from "../WordTable";
import { Files } from "./Files";
import { Things } from "./Things";
import { WalkFromAbove } from "./WalkFromAbove";

type Panel_ = Schemas["WalkPanel"];

const walkEdit = (act: Schemas["WalkEdit"]["do"], rest: Partial<Schemas["WalkEdit"]> = {}): DeskEdit => ({
  track: "walk",
  index: 0,
  x_mm: 0,
  y_mm: 0,
  ...rest,
  do: act,
});

/** A walk beside the loom: its path from above, its legs, its stations, what stands on the table. */
export function WalkPanel(props: { desk: DeskState; plan: Plan; number: number; edits: LayerEdits }) {
  const { desk, plan, number, edits } = props;
  const wanted = Math.min(number, plan.solved.frame_count);
  const { answer: panel, refused } = useOnceQuiet<Panel_>(
    (signal) => told(api.POST("/api/programs/walk", { body: { shot: plan.shot, number: wanted }, signal })),
    [plan, wanted],
  );
  const shot = useRef(plan.shot);
  shot.current = plan.shot;
  if (!panel) return refused ? <Said>{refused}</Said> : null;
  const { table } = panel;
  return (
    <Box data-testid="walk-panel">
      <Panel title="The walk from above" mb="4">
        <WalkFromAbove
          table={table}
          onPut={(index, x, y, end) => {
            const edit = walkEdit("put", { index, x_mm: Math.round(x), y_mm: Math.round(y) });
            if (end) edits.commit(edit);
            else edits.preview(edit);
          }}
          onAdd={(x, y) => edits.commit(walkEdit("add", { x_mm: Math.round(x), y_mm: Math.round(y) }))}
        />
        {table.told.map((line) => (
          <chakra.p key={line} fontSize="14px" mt="1.5">
            {line}
          </chakra.p>
        ))}
        <Things rows={panel.things} desk={desk} edits={edits} pulls={false} onPull={() => undefined} />
      </Panel>
      <Panel title="Legs" mb="4">
        <WordTable
          heads={["leg", "bearing", "length"]}
          rows={table.legs}
          desk={desk}
          testId="legs"
          numbered
          actions={(index) =>
            table.legs.length > 1 && (
              <RowAction
                aria-label={`Remove the end of leg ${index + 1}`}
                onClick={() => edits.commit(walkEdit("take out", { index: index + 1 }))}
              >
                Remove its end
              </RowAction>
            )
          }
        />
        <Files
          about="walk"
          label="Path from GPX …"
          accept=".gpx,application/gpx+xml,text/xml"
          testId="path-file"
          onRead={(walked, gpx) => told(api.POST("/api/programs/path", { body: { shot: walked, gpx } }))}
          shotNow={() => shot.current}
          onTake={desk.takeShot}
        />
      </Panel>
      <Panel title="On the way" overflowX="auto">
        <Stations rows={table.stations} here={table.number} />
      </Panel>
    </Box>
  );
}

const COLUMNS: [keyof Schemas["StationRow"], string][] = [
  ["number", ""],
  ["clock", "clock"],
  ["along", "along"],
  ["bearing", "towards it"],
  ["dial", "dial"],
  ["away", "away"],
  ["height", "high"],
  ["pause", "pause"],
  ["light", "light"],
];

const Stations = memo(function Stations({ rows, here }: { rows: Schemas["StationRow"][]; here: number }) {
  const [all, setAll] = useState(false);
  const every = all ? 1 : Math.max(1, Math.ceil(rows.length / 12));
  // What nothing is said of has no column: a pause of a walk that is filmed, a height without an aim.
  const columns = COLUMNS.filter(([name]) => rows.some((row) => row[name] !== ""));
  const shown = rows.filter((_, i) => i % every === 0 || i === rows.length - 1);
  return (
    <>
      <chakra.table fontSize="14px" width="100%" data-testid="stations">
        <thead>
          <tr>
            {columns.map(([name, said]) => (
              <Head key={name}>{said}</Head>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((row) => (
            <chakra.tr
              key={row.number}
              borderTop="1px solid"
              borderColor="line"
              fontWeight={row.number === here ? "700" : undefined}
            >
              {columns.map(([name]) => (
                <Cell key={name} className="figure">
                  {row[name]}
                </Cell>
              ))}
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      {rows.length > shown.length && (
        <Action mt="2" minH={{ base: "11", md: "8" }} onClick={() => setAll(true)}>
          All {rows.length} of these
        </Action>
      )}
    </>
  );
});
