import { scaleLinear } from "d3-scale";
import { memo } from "react";
import { moveEdit } from "../api/moveEdit";
import { band, colour, Label, type LayerProps, trace } from "../draw/layer";
import { Stem } from "../draw/Stem";
import { useDrag } from "../draw/useDrag";
import type { LayerEdits } from "./LightLayer";

type AxisLane = LayerProps["lanes"]["axes"][number];
/** What is drawn beside positions: nothing, speeds, or accelerations. */
export type Rates = "speed" | "force" | null;
type PostOf = AxisLane["posts"][number];
type Column = number[] | undefined;

/**
 * One strip an axis: its trace, posts for the keys, holds behind them, and what is over a limit marked
 * where it is. Posts are dragged in time and value; speed is drawn on demand.
 */
export function MoveLayer(props: LayerProps & { edits: LayerEdits; rates: Rates; tall: boolean }) {
  const { lanes, scale, top, height, left, right, edits, rates, tall } = props;
  const axes = lanes.axes;
  if (axes.length === 0) {
    return (
      <g>
        <rect x={left} y={top} width={right - left} height={height} rx={3} fill={colour("lane")} />
        <Label x={left - 10} y={top + Math.min(height / 2 + 4, 26)} textAnchor="end" size={13} weight={700}>
          Move
        </Label>
        {height > 24 && (
          <Label x={left + 12} y={top + height / 2 + 4} size={12} tone="inkSoft">
            {lanes.stands}
          </Label>
        )}
      </g>
    );
  }
  const each = height / axes.length;
  const frames = lanes.frames as Record<string, Column>;
  return (
    <g data-testid="move-layer">
      <rect x={left} y={top} width={right - left} height={height} rx={3} fill={colour("lane")} />
      {!tall && (
        <Label x={left - 10} y={top + Math.min(height / 2 + 4, 26)} textAnchor="end" size={13} weight={700}>
          Move
        </Label>
      )}
      {axes.map((axis, i) => (
        <Strip
          key={axis.name}
          axis={axis}
          at={frames.at_s ?? NONE}
          values={frames[axis.name] ?? NONE}
          speeds={rates ? frames[`${axis.name}_${rates}`] : undefined}
          near={axis.name === "focus" ? frames.focus_near : undefined}
          far={axis.name === "focus" ? frames.focus_far : undefined}
          holds={lanes.holds}
          scale={scale}
          top={top + i * each}
          height={each}
          left={left}
          right={right}
          edits={edits}
          rates={rates}
          tall={tall}
          first={i === 0}
        />
      ))}
    </g>
  );
}

const NONE: number[] = [];

/** One axis. Answers keep the identity of what is the same in them, so that only strips that change are drawn. */
const Strip = memo(function Strip(
  props: Omit<LayerProps, "lanes"> & {
    axis: AxisLane;
    at: number[];
    values: number[];
    speeds: Column;
    near: Column;
    far: Column;
    holds: LayerProps["lanes"]["holds"];
    edits: LayerEdits;
    rates: Rates;
    tall: boolean;
    first: boolean;
  },
) {
  const {
    axis,
    at,
    values,
    speeds,
    near,
    far,
    holds,
    scale,
    top,
    height,
    left,
    right,
    edits,
    rates,
    tall,
    first,
  } = props;
  const { low, high } = axis;
  const room = Math.min(9, height * 0.22);
  const y = scaleLinear([low, high === low ? low + 1 : high], [top + height - room, top + room]);
  const fastest = Math.max(1e-9, ...(speeds ?? []).map(Math.abs));
  const ySpeed = scaleLinear([-fastest, fastest], [top + height - 2, top + 2]);
  return (
    <g>
      {!first && <line x1={left} x2={right} y1={top} y2={top} stroke={colour("line")} />}
      {tall && (
        <>
          <Label
            x={left - 10}
            y={top + height / 2 + (height > 32 ? -1 : 4)}
            textAnchor="end"
            size={13}
            weight={700}
          >
            {axis.name}
          </Label>
          {height > 32 && (
            <Label x={left - 10} y={top + height / 2 + 13} textAnchor="end" size={10} figure tone="inkSoft">
              {axis.spans}
            </Label>
          )}
        </>
      )}
      <g clipPath="url(#loom-lanes)">
        {holds.map((hold) => (
          <rect
            key={hold.from_s}
            x={scale(hold.from_s)}
            y={top}
            width={Math.max(scale(hold.to_s) - scale(hold.from_s), 1)}
            height={height}
            fill={colour("holdSoft")}
          />
        ))}
        {near && far && (
          <path
            d={band(
              at,
              near.map((value) => Math.max(value, low)),
              far.map((value) => Math.min(value, high)),
              scale,
              y,
            )}
            fill={colour("accentSoft")}
            opacity={0.7}
          >
            <title>What is sharp</title>
          </path>
        )}
        {speeds && (
          <path
            d={trace(at, speeds, scale, ySpeed)}
            fill="none"
            stroke={colour("inkSoft")}
            strokeWidth={1}
            strokeDasharray="3 3"
            data-testid={`${rates}-${axis.name}`}
          />
        )}
        <path
          data-testid={`trace-${axis.name}`}
          d={trace(at, values, scale, y)}
          fill="none"
          stroke={colour("trace")}
          strokeWidth={1.7}
        />
        {axis.breaches.map((breach) => (
          <g key={`${breach.from_s}${breach.text}`}>
            <path
              d={trace(
                at.filter((one) => one >= breach.from_s && one <= breach.to_s),
                values.filter((_, i) => (at[i] ?? 0) >= breach.from_s && (at[i] ?? 0) <= breach.to_s),
                scale,
                y,
              )}
              fill="none"
              stroke={colour("fail")}
              strokeWidth={4}
            />
            {height > 26 && (
              <Label
                x={(scale(breach.from_s) + scale(breach.to_s)) / 2}
                y={top + 12}
                textAnchor="middle"
                size={11.5}
                weight={600}
                tone="fail"
                halo
              >
                {breach.text}
              </Label>
            )}
          </g>
        ))}
        {axis.posts.map((post) => (
          <Post
            key={post.index}
            post={post}
            axis={axis}
            scale={scale}
            y={y}
            foot={top + height}
            edits={edits}
            tall={tall}
          />
        ))}
      </g>
    </g>
  );
});

/** A key: a stem with a flat head, from the foot of the strip to the axis's value. */
function Post(props: {
  post: PostOf;
  axis: AxisLane;
  scale: LayerProps["scale"];
  y: (value: number) => number;
  foot: number;
  edits: LayerEdits;
  tall: boolean;
}) {
  const { post, axis, scale, foot, edits, tall } = props;
  const y = props.y as ((value: number) => number) & { invert: (px: number) => number };
  const x = scale(post.at_s);
  const { value } = post;
  const top = y(value);
  const drag = useDrag({ post, value, y }, (base, dx, dy, end) => {
    const edit = moveEdit("drag", {
      index: base.post.index,
      at_s: Math.abs(dx) > 2 ? base.post.at_s + scale.invert(dx) - scale.invert(0) : null,
      positions: { [axis.name]: base.value + base.y.invert(dy) - base.y.invert(0) },
    });
    if (end) edits.commit(edit);
    else edits.preview(edit);
  });
  return (
    <g {...drag} style={{ cursor: "move" }} data-post={`${axis.name}-${post.index}`}>
      <title>{`${post.moment}: ${axis.name} ${post.said}`}</title>
      <Stem x={x} top={top} foot={foot} tall={tall} />
    </g>
  );
}
