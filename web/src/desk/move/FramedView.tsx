import { chakra } from "@chakra-ui/react";
import type { Schemas } from "../../api/client";
import { colour, Label } from "../../draw/layer";

type View = Schemas["FramedView"];

const WIDTH = 480;
const AROUND = 0.18;

const WAYS: Record<string, { stroke: string; dash?: string; mark: string }> = {
  sun: { stroke: "accent", mark: "sun" },
  moon: { stroke: "trace", dash: "2 4", mark: "moon" },
  "galactic core": { stroke: "hold", dash: "8 4", mark: "core" },
};

const path = (points: number[][], x: (v: number) => number, y: (v: number) => number) =>
  points.map(([px = 0, py = 0], i) => `${i ? "L" : "M"}${x(px).toFixed(1)} ${y(py).toFixed(1)}`).join("");

const NUDGE: Record<string, readonly [number, number]> = {
  ArrowLeft: [-0.01, 0],
  ArrowRight: [0.01, 0],
  ArrowUp: [0, -0.01],
  ArrowDown: [0, 0.01],
};
const inPicture = (part: number) => Math.min(Math.max(part, 0), 1);

/** The picture as it is framed: skyline, and the ways of sun, moon and galactic core; a place in it may be chosen. */
export function FramedView(props: {
  view: View;
  /** Where one looks for something in it, parts of the picture. */
  point?: { across: number; down: number };
  onPoint?: (across: number, down: number) => void;
}) {
  const { view, point, onPoint } = props;
  const inner = WIDTH * (1 - 2 * AROUND);
  const high = inner / view.aspect;
  const height = high * (1 + 2 * AROUND);
  const x = (part: number) => WIDTH * AROUND + part * inner;
  const y = (part: number) => high * AROUND + part * high;
  const ground = [...view.skyline, [view.skyline.at(-1)?.[0] ?? 1, 2], [view.skyline[0]?.[0] ?? 0, 2]];
  return (
    <>
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        width="100%"
        role="img"
        aria-label={`The picture at frame ${view.number}. ${view.told.join(" ")}`}
        data-testid="framed-view"
        style={{ display: "block", overflow: "hidden", cursor: onPoint && "crosshair" }}
        tabIndex={onPoint ? 0 : undefined}
        onClick={(event) => {
          if (!onPoint) return;
          const box = event.currentTarget.getBoundingClientRect();
          const [px, py] = [event.clientX - box.left, event.clientY - box.top].map(
            (one) => (one / box.width) * WIDTH,
          );
          onPoint(inPicture(((px ?? 0) - x(0)) / inner), inPicture(((py ?? 0) - y(0)) / high));
        }}
        onKeyDown={(event) => {
          const by = NUDGE[event.key];
          if (!onPoint || !point || !by) return;
          event.preventDefault();
          onPoint(inPicture(point.across + by[0]), inPicture(point.down + by[1]));
        }}
      >
        <rect width={WIDTH} height={height} fill={colour("lane")} />
        <path d={`${path(ground, x, y)}Z`} fill={colour("line")} />
        <path d={path(view.horizon, x, y)} fill="none" stroke={colour("inkSoft")} strokeDasharray="2 5" />
        {view.ways.map((way) => {
          const look = WAYS[way.which];
          if (!look) return null;
          return (
            <g key={way.which}>
              {way.stretches.map((points) => (
                <path
                  key={`${points[0]}`}
                  d={path(points, x, y)}
                  fill="none"
                  stroke={colour(look.stroke)}
                  strokeWidth={2}
                  strokeDasharray={look.dash}
                />
              ))}
              {way.hours.map((hour) => (
                <g key={`${hour.x}`}>
                  <circle cx={x(hour.x)} cy={y(hour.y)} r={2.5} fill={colour(look.stroke)} />
                  <Label x={x(hour.x) + 5} y={y(hour.y) - 5} size={11} figure halo tone="inkSoft">
                    {hour.label}
                  </Label>
                </g>
              ))}
              {way.now && (
                <g>
                  <circle
                    cx={x(way.now[0] ?? 0)}
                    cy={y(way.now[1] ?? 0)}
                    r={8}
                    fill={way.which === "moon" ? colour("card") : colour(look.stroke)}
                    stroke={colour(look.stroke)}
                    strokeWidth={2}
                  />
                  <Label x={x(way.now[0] ?? 0) + 12} y={y(way.now[1] ?? 0) + 4} size={12} weight={700} halo>
                    {look.mark}
                  </Label>
                </g>
              )}
            </g>
          );
        })}
        <rect
          x={x(0)}
          y={y(0)}
          width={inner}
          height={high}
          fill="none"
          stroke={colour("ink")}
          strokeWidth={2}
        />
        {point && (
          <path
            data-testid="point"
            d={`M${x(point.across) - 14} ${y(point.down)}h10m8 0h10M${x(point.across)} ${y(point.down) - 14}v10m0 8v10`}
            stroke={colour("accent")}
            strokeWidth={3}
          />
        )}
        <Label x={x(0) + 6} y={y(1) - 7} size={12} figure halo>
          {`frame ${view.number}, ${view.clock}`}
        </Label>
      </svg>
      {(onPoint ? [] : view.told).map((line) => (
        <chakra.p key={line} fontSize="14px" mt="1.5">
          {line}
        </chakra.p>
      ))}
    </>
  );
}
