import { memo, useRef } from "react";
import type { Schemas } from "../../api/client";
import { colour, Label } from "../../draw/layer";
import { useDrag } from "../../draw/useDrag";
import { useWidth } from "../../draw/useWidth";

type Table = Schemas["WalkTable"];

const ARROWS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const HEIGHT = 380;
const EDGE = 26;
const SHADE: Record<string, string> = { subject: "accent", foreground: "trace", background: "inkSoft" };

/** A walk from above, to scale: the path with its stands, what is looked at, from where it is not seen. */
export const WalkFromAbove = memo(function WalkFromAbove(props: {
  table: Table;
  onPut: (index: number, x: number, y: number, end: boolean) => void;
  onAdd: (x: number, y: number) => void;
}) {
  const { table, onPut, onAdd } = props;
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const [lowX = 0, lowY = 0] = table.low;
  const [highX = 1, highY = 1] = table.high;
  // A path that goes ahead rather than aside is drawn from left to right: what is to the right lies below.
  const turned = highY - lowY > highX - lowX;
  const [wide, high] = turned ? [highY - lowY, highX - lowX] : [highX - lowX, highY - lowY];
  const unit = Math.min((width - 2 * EDGE) / wide, (HEIGHT - 2 * EDGE) / high);
  const [midX, midY] = [(lowX + highX) / 2, (lowY + highY) / 2];
  const at = ([px = 0, py = 0]: number[]): [number, number] =>
    turned
      ? [width / 2 + (py - midY) * unit, HEIGHT / 2 + (px - midX) * unit]
      : [width / 2 + (px - midX) * unit, HEIGHT / 2 - (py - midY) * unit];
  /** From pixels of the drawing to mm on the table. */
  const way = (dx: number, dy: number): [number, number] =>
    turned ? [dy / unit, dx / unit] : [dx / unit, -dy / unit];
  const path = (points: number[][]) =>
    points
      .map((one, i) => {
        const [px, py] = at(one);
        return `${i ? "L" : "M"}${px.toFixed(1)} ${py.toFixed(1)}`;
      })
      .join("");
  const [eye, ...ends] = table.view;
  return (
    <div ref={box}>
      {width > 2 * EDGE && (
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label="The walk from above"
          data-testid="walk-above"
          style={{ display: "block", touchAction: "none" }}
          onDoubleClick={(event) => {
            const frame = event.currentTarget.getBoundingClientRect();
            const [dx, dy] = way(
              event.clientX - frame.left - width / 2,
              event.clientY - frame.top - HEIGHT / 2,
            );
            onAdd(midX + dx, midY + dy);
          }}
        >
          <title>Drag a post to move it; a double click walks on to there</title>
          <rect width={width} height={HEIGHT} fill={colour("lane")} />
          {eye && <path d={`${path([eye, ...ends])}Z`} fill={colour("accentSoft")} opacity={0.6} />}
          <path
            d={path(table.points)}
            fill="none"
            stroke={colour("line")}
            strokeWidth={9}
            strokeLinejoin="round"
          />
          <path d={path(table.points)} fill="none" stroke={colour("ink")} strokeWidth={1} />
          {table.stands.map(
            (stand) =>
              stand.ray && (
                <path
                  key={stand.number}
                  d={path([[stand.x_mm, stand.y_mm], stand.ray])}
                  stroke={colour("accent")}
                  strokeWidth={0.8}
                  strokeDasharray="3 4"
                  opacity={0.7}
                />
              ),
          )}
          {table.lost.map((one) => (
            <g key={one.label}>
              <path d={path(one.points)} fill="none" stroke={colour("fail")} strokeWidth={5} />
              <Label
                x={at(one.points.at(-1) ?? [])[0]}
                y={at(one.points.at(-1) ?? [])[1] + 40}
                textAnchor="middle"
                size={12.5}
                tone="fail"
                halo
              >
                {one.label}
              </Label>
            </g>
          ))}
          {table.stands.map((stand) => {
            const [px, py] = at([stand.x_mm, stand.y_mm]);
            return (
              <path
                key={stand.number}
                d={`M${px} ${py}v-6m-2.5 0h5`}
                stroke={colour("ink")}
                strokeWidth={1}
              />
            );
          })}
          {table.things.map((thing) => {
            const [px, py] = at([thing.x_mm, thing.y_mm]);
            const across = Math.max(thing.width_mm * unit, 8);
            const [w, h] = turned ? [10, across] : [across, 10];
            return (
              <g key={thing.name}>
                <rect
                  x={px - w / 2}
                  y={py - h / 2}
                  width={w}
                  height={h}
                  fill={colour(thing.aim ? "accent" : (SHADE[thing.role] ?? "trace"))}
                />
                <Label
                  x={px}
                  y={thing.aim ? py + h / 2 + 15 : py - h / 2 - 6}
                  textAnchor="middle"
                  size={12.5}
                  weight={600}
                  halo
                >
                  {thing.aim ? `${thing.name}, the aim` : thing.name}
                </Label>
              </g>
            );
          })}
          {table.points.map((point, index) => (
            <Post
              // biome-ignore lint/suspicious/noArrayIndexKey: a point has no other name than its place on the path
              key={index}
              at={at(point)}
              index={index}
              base={[point[0] ?? 0, point[1] ?? 0]}
              way={way}
              onPut={onPut}
            />
          ))}
          <circle
            cx={at([table.here.x_mm, table.here.y_mm])[0]}
            cy={at([table.here.x_mm, table.here.y_mm])[1]}
            r={5}
            fill={colour("accent")}
            stroke={colour("card")}
          />
          <NorthAndSun
            x={width - 44}
            y={HEIGHT - 52}
            north={table.north_deg + (turned ? 90 : 0)}
            sun={table.sun_deg === null ? null : table.sun_deg + (turned ? 90 : 0)}
            told={table.sun}
          />
        </svg>
      )}
    </div>
  );
});

/** A post of the path; it is dragged, and nudged with the arrows. */
function Post(props: {
  at: [number, number];
  index: number;
  base: [number, number];
  way: (dx: number, dy: number) => [number, number];
  onPut: (index: number, x: number, y: number, end: boolean) => void;
}) {
  const { at, index, base, way, onPut } = props;
  const [x, y] = at;
  const put = ([fromX, fromY]: [number, number], dx: number, dy: number, end: boolean) => {
    const [byX, byY] = way(dx, dy);
    onPut(index, fromX + byX, fromY + byY, end);
  };
  const drag = useDrag(base, put);
  return (
    // biome-ignore lint/a11y/useSemanticElements: a part of a drawing
    <g
      role="button"
      tabIndex={0}
      aria-label={`Point ${index + 1} of the path`}
      data-point={index}
      style={{ cursor: "grab", touchAction: "none" }}
      {...drag}
      onKeyDown={(event) => {
        const to = ARROWS[event.key];
        if (!to) return;
        event.preventDefault();
        event.stopPropagation();
        // A metre on the table, five with Shift, whichever way it is drawn.
        const [byX, byY] = way(to[0], to[1]).map((mm) => Math.sign(mm) * (event.shiftKey ? 5_000 : 1_000));
        onPut(index, base[0] + (byX ?? 0), base[1] + (byY ?? 0), true);
      }}
    >
      <rect x={x - 14} y={y - 22} width={28} height={30} fill="transparent" />
      <path d={`M${x} ${y}v-12`} stroke={colour("ink")} strokeWidth={2} />
      <rect x={x - 5} y={y - 16} width={10} height={4.5} fill={colour("ink")} />
    </g>
  );
}

/** Where north and the sun are. */
function NorthAndSun(props: { x: number; y: number; north: number; sun: number | null; told: string }) {
  const { x, y, north, sun, told } = props;
  const to = (degrees: number, r: number) => {
    const turned = (degrees * Math.PI) / 180;
    return `${(x + Math.sin(turned) * r).toFixed(1)} ${(y - Math.cos(turned) * r).toFixed(1)}`;
  };
  const [nx, ny] = to(north, 26).split(" ");
  return (
    <g>
      <circle cx={x} cy={y} r={17} fill={colour("card")} stroke={colour("accent")} strokeWidth={1.5} />
      <path d={`M${to(north, 11)}L${to(north, 17)}`} stroke={colour("ink")} strokeWidth={2} />
      <Label x={Number(nx)} y={Number(ny) + 4} textAnchor="middle" size={11} weight={700} halo>
        N
      </Label>
      {sun !== null && <path d={`M${x} ${y}L${to(sun, 15)}`} stroke={colour("accent")} strokeWidth={2.5} />}
      <Label x={x} y={y + 42} textAnchor="middle" size={12} figure tone="inkSoft">
        {told}
      </Label>
    </g>
  );
}
