import { area, curveLinear, line } from "d3-shape";
import { memo, type ReactNode, type SVGProps } from "react";
import type { Plan } from "../api/client";
import type { Scale } from "./scale";

export interface LayerProps {
  lanes: Plan["lanes"];
  scale: Scale;
  top: number;
  height: number;
  left: number;
  right: number;
}

type Lanes = Plan["lanes"];

/**
 * A layer that is drawn anew only when something that it draws has changed: parts of the lanes, columns of
 * their frames, or its place. Answers keep the identity of what is the same in them.
 */
export function layerOf<P extends LayerProps>(
  draw: (props: P) => ReactNode,
  parts: readonly (keyof Lanes)[],
  columns: readonly string[],
) {
  const frames = (lanes: Lanes) => lanes.frames as Record<string, number[] | undefined>;
  const same = (before: P, after: P) => {
    const { lanes: old, ...others } = before;
    return (
      parts.every((part) => old[part] === after.lanes[part]) &&
      columns.every((column) => frames(old)[column] === frames(after.lanes)[column]) &&
      Object.entries(others).every(([name, value]) => value === after[name as keyof P])
    );
  };
  return memo(draw, same);
}

/** The CSS variable of a theme colour: `inkSoft` is --chakra-colors-ink-soft. */
export const colour = (name: string) =>
  `var(--chakra-colors-${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)})`;
export const MONO = "'Atkinson Hyperlegible Mono Variable', monospace";

type LabelProps = Omit<SVGProps<SVGTextElement>, "fontSize" | "fontWeight"> & {
  size?: number;
  weight?: number;
  figure?: boolean;
  tone?: string;
  halo?: boolean;
};

/** Text in the drawing; `figure` sets it in the tabular face, `halo` lifts it off what lies below. */
export function Label({
  size = 12.5,
  weight = 400,
  figure,
  tone = "ink",
  halo,
  style,
  ...props
}: LabelProps) {
  return (
    <text
      {...props}
      style={{
        fontSize: `${size}px`,
        fontWeight: weight,
        fontFamily: figure ? MONO : undefined,
        fill: colour(tone),
        ...(halo && {
          stroke: colour("lane"),
          strokeWidth: 4,
          strokeLinejoin: "round",
          paintOrder: "stroke",
        }),
        ...style,
      }}
    />
  );
}

/** The ground of a layer with its name and unit at the left. */
export function LayerGround(props: {
  name: string;
  unit?: string;
  top: number;
  height: number;
  left: number;
  right: number;
  children?: ReactNode;
}) {
  const { name, unit, top, height, left, right, children } = props;
  const middle = top + Math.min(height / 2, 26);
  return (
    <g>
      <rect x={left} y={top} width={right - left} height={height} rx={3} fill={colour("lane")} />
      <Label x={left - 10} y={middle} textAnchor="end" size={13} weight={700} tone="ink">
        {name}
      </Label>
      {unit && height > 32 && (
        <Label x={left - 10} y={middle + 14} textAnchor="end" size={11.5} tone="inkSoft">
          {unit}
        </Label>
      )}
      <g clipPath="url(#loom-lanes)">{children}</g>
    </g>
  );
}

/** The path through points that are given as two columns. */
export function trace(
  xs: number[],
  ys: number[],
  x: (v: number) => number,
  y: (v: number) => number,
): string {
  const path = line<number>(
    (_, i) => x(xs[i] ?? 0),
    (_, i) => y(ys[i] ?? 0),
  ).curve(curveLinear);
  return path(ys) ?? "";
}

/** The area between two columns over a third. */
export function band(
  xs: number[],
  lower: number[],
  upper: number[],
  x: (v: number) => number,
  y: (v: number) => number,
): string {
  const path = area<number>(
    (_, i) => x(xs[i] ?? 0),
    (_, i) => y(lower[i] ?? 0),
    (_, i) => y(upper[i] ?? 0),
  );
  return path(xs) ?? "";
}

/** A place for words: its middle and its baseline. */
export interface Spot {
  x: number;
  y: number;
}

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** Whether a drawn trace, points in pixels in order of x, runs through a box. */
function runsThrough(points: [number, number][], box: Box): boolean {
  return points.some(([x, y], i) => {
    const [fromX, fromY] = points[Math.max(i - 1, 0)] ?? [x, y];
    if (x < box.left || fromX > box.right) return false;
    // A piece may cross the box between its ends.
    const low = Math.min(y, fromY);
    const high = Math.max(y, fromY);
    return high >= box.top && low <= box.bottom;
  });
}

/** The first of some spots at which words of a width cover no trace; null where they would everywhere. */
export function clearSpot(
  spots: Spot[],
  width: number,
  size: number,
  traces: [number, number][][],
): Spot | null {
  const clear = ({ x, y }: Spot) => {
    const box = { left: x - width / 2, right: x + width / 2, top: y - size, bottom: y + size * 0.25 };
    return !traces.some((points) => runsThrough(points, box));
  };
  return spots.find(clear) ?? null;
}

/** About how wide words are drawn. */
export const textWidth = (text: string, size: number) => text.length * size * 0.54;
