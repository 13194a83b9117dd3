import { Box } from "@chakra-ui/react";
import { memo } from "react";
import type { Schemas } from "../../api/client";
import { moveEdit } from "../../api/moveEdit";
import { colour, Label } from "../../draw/layer";
import { useDrag } from "../../draw/useDrag";
import type { LayerEdits } from "../../loom/LightLayer";

type Table = Schemas["Table"];

const WIDTH = 520;
const HEIGHT = 360;
const SHADE: Record<string, string> = { subject: "accent", foreground: "trace", background: "inkSoft" };

interface TableProps {
  table: Table;
  at: number;
  edits: LayerEdits;
}

/** The rig from above, to scale: slider, camera with its field of view, aim, things with distances. */
export function FromAbove({ table, at, edits }: TableProps) {
  const slider = table.slider ?? [-500, 500];
  const xs = [slider[0] ?? -500, slider[1] ?? 500, ...table.things.map((thing) => thing.x_mm)];
  const [low, high] = [Math.min(...xs), Math.max(...xs)];
  const unit = Math.min((WIDTH - 90) / Math.max(high - low, 600), (HEIGHT - 70) / table.extent_mm);
  const x = (mm: number) => WIDTH / 2 + (mm - (low + high) / 2) * unit;
  const y = (mm: number) => HEIGHT - 40 - mm * unit;
  const camera = table.camera_x_mm;
  const [leftX, leftY, aimX, aimY, rightX, rightY] = table.view.flatMap(([across = 0, ahead = 0]) => [
    x(across),
    y(ahead),
  ]);
  const drag = useDrag(camera, (base, dx, _dy, end) => {
    const edit = moveEdit("set", { at_s: at, positions: { slide: (base + dx / unit) * table.slide_per_mm } });
    if (end) edits.commit(edit);
    else edits.preview(edit);
  });
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width="100%"
      role="img"
      aria-label="The rig from above"
      data-testid="from-above"
    >
      <rect width={WIDTH} height={HEIGHT} fill={colour("lane")} />
      <path
        d={`M${x(camera)} ${y(0)}L${leftX} ${leftY}L${rightX} ${rightY}Z`}
        fill={colour("accentSoft")}
        opacity={0.5}
      />
      <line x1={x(camera)} y1={y(0)} x2={aimX} y2={aimY} stroke={colour("accent")} strokeDasharray="6 4" />
      {table.things.map((thing) => (
        <g key={thing.name}>
          <rect
            x={x(thing.x_mm - thing.width_mm / 2)}
            y={y(thing.y_mm) - 4}
            width={Math.max(thing.width_mm * unit, 4)}
            height={8}
            fill={colour(SHADE[thing.role] ?? "trace")}
          />
          <Label x={x(thing.x_mm)} y={y(thing.y_mm) - 9} textAnchor="middle" size={12} weight={600} halo>
            {thing.name === table.aim ? `aim: ${thing.name}` : thing.name}
          </Label>
          <Label
            x={x(thing.x_mm)}
            y={y(thing.y_mm) + 17}
            textAnchor="middle"
            size={11}
            figure
            tone="inkSoft"
            halo
          >
            {thing.distance}
          </Label>
        </g>
      ))}
      {table.slider && (
        <g>
          <line
            x1={x(slider[0] ?? 0)}
            x2={x(slider[1] ?? 0)}
            y1={y(0) + 8}
            y2={y(0) + 8}
            stroke={colour("inkSoft")}
            strokeWidth={4}
          />
          {table.travelled && (
            <line
              x1={x(table.travelled[0] ?? 0)}
              x2={x(table.travelled[1] ?? 0)}
              y1={y(0) + 8}
              y2={y(0) + 8}
              stroke={colour("hold")}
              strokeWidth={6}
            />
          )}
          <Label x={x(slider[0] ?? 0)} y={y(0) + 26} textAnchor="end" size={11} figure tone="inkSoft">
            {table.slider_ends[0]}
          </Label>
          <Label x={x(slider[1] ?? 0)} y={y(0) + 26} textAnchor="start" size={11} figure tone="inkSoft">
            {table.slider_ends[1]}
          </Label>
        </g>
      )}
      <g
        {...(table.slider && table.slide_per_mm ? drag : {})}
        style={{ cursor: table.slider ? "ew-resize" : "default" }}
        data-testid="table-camera"
      >
        <title>Drag along the slider to set a key at the plumb line</title>
        <g transform={`translate(${x(camera)} ${y(0)}) rotate(${table.heading_deg})`}>
          <rect x={-11} y={-6} width={22} height={14} rx={2} fill={colour("ink")} />
          <rect x={-5} y={-12} width={10} height={8} fill={colour("ink")} />
        </g>
      </g>
    </svg>
  );
}

const WAYS: Record<string, string> = { sun: "accent", moon: "trace", "galactic core": "hold" };

/** The camera's picture at the plumb line, its things as boards; drag it to aim the camera. */
export function Finder({ table, at, edits }: TableProps) {
  const height = WIDTH / table.aspect;
  const x = (part: number) => part * WIDTH;
  const y = (part: number) => part * height;
  const drag = useDrag(height, (high, dx, dy, end) => {
    const edit = moveEdit("aim", { at_s: at, across: -dx / WIDTH, down: -dy / high });
    if (end) edits.commit(edit);
    else edits.preview(edit);
  });
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      width="100%"
      role="img"
      aria-label="What the camera sees"
      data-testid="finder"
      style={{ cursor: "grab", touchAction: "none" }}
      {...drag}
    >
      <title>Drag the picture to aim: sets a key at the plumb line</title>
      <rect width={WIDTH} height={height} fill={colour("card")} />
      <rect
        y={Math.max(y(table.horizon), 0)}
        width={WIDTH}
        height={Math.max(height - y(table.horizon), 0)}
        fill={colour("foot")}
      />
      {table.ways.map((way) =>
        way.stretches.map((points) => (
          <polyline
            key={`${way.which}${points[0]}`}
            points={points.map(([px = 0, py = 0]) => `${x(px)},${y(py)}`).join(" ")}
            fill="none"
            stroke={colour(WAYS[way.which] ?? "trace")}
            strokeWidth={1.6}
            strokeDasharray="5 4"
          />
        )),
      )}
      {table.boards.map((board) => (
        <g key={board.name}>
          <rect
            x={x(board.left)}
            y={y(board.top)}
            width={Math.max(x(board.right) - x(board.left), 1)}
            height={Math.max(y(board.bottom) - y(board.top), 1)}
            fill={colour(SHADE[board.role] ?? "trace")}
            opacity={board.role === "foreground" ? 1 : 0.75}
          />
          <Label
            x={x((board.left + board.right) / 2)}
            y={y(board.top) - 5}
            textAnchor="middle"
            size={12}
            halo
          >
            {board.name}
          </Label>
        </g>
      ))}
      <rect
        x={x(table.safe)}
        y={y(table.safe)}
        width={WIDTH * (1 - 2 * table.safe)}
        height={height * (1 - 2 * table.safe)}
        fill="none"
        stroke={colour("inkSoft")}
        strokeDasharray="2 4"
      />
      {table.crops.map((crop) => (
        <g key={crop.name}>
          <rect
            x={x(crop.left)}
            y={y(crop.top)}
            width={x(crop.right) - x(crop.left)}
            height={y(crop.bottom) - y(crop.top)}
            fill="none"
            stroke={colour("line")}
          />
          <Label x={x(crop.left) + 4} y={y(crop.top) + 13} size={10.5} figure tone="inkSoft">
            {crop.name}
          </Label>
        </g>
      ))}
      <path
        d={`M${WIDTH / 2 - 8} ${height / 2}h16M${WIDTH / 2} ${height / 2 - 8}v16`}
        stroke={colour("ink")}
      />
    </svg>
  );
}

/** The two beside each other. */
export const MoveTable = memo(function MoveTable(props: TableProps) {
  return (
    <Box display="grid" gridTemplateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="4">
      <FromAbove {...props} />
      <Finder {...props} />
    </Box>
  );
});
