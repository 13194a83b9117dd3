import { scaleLinear, scaleLog } from "d3-scale";
import { memo } from "react";
import { outputEdit } from "../api/outputEdit";
import { band, colour, Label, type LayerProps, trace } from "../draw/layer";
import { Stem } from "../draw/Stem";
import { useDrag } from "../draw/useDrag";
import type { LayerEdits } from "./LightLayer";

type Lane = LayerProps["lanes"]["crops"][number];
type Y = ((value: number) => number) & { invert: (px: number) => number };

/**
 * One strip an output: how close its frame is, under the line up to which no pixel is enlarged, over the band in
 * which it would show the picture's edge. Keys are dragged in time and value.
 */
export function CropLayer(props: LayerProps & { edits: LayerEdits; tall: boolean }) {
  const { lanes, scale, top, height, left, right, edits, tall } = props;
  const frames = lanes.frames as Record<string, number[] | undefined>;
  if (lanes.crops.length === 0)
    return (
      <g>
        <rect x={left} y={top} width={right - left} height={height} rx={3} fill={colour("lane")} />
        <Label x={left - 10} y={top + 26} textAnchor="end" size={13} weight={700}>
          Outputs
        </Label>
        <Label x={left + 12} y={top + height / 2 + 4} size={13} tone="inkSoft">
          Nothing is made of it afterwards yet: add an output below.
        </Label>
      </g>
    );
  const each = height / lanes.crops.length;
  return (
    <g data-testid="crop-layer">
      <rect x={left} y={top} width={right - left} height={height} rx={3} fill={colour("lane")} />
      {lanes.crops.map((lane, i) => (
        <Strip
          key={lane.index}
          lane={lane}
          at={frames.at_s ?? NONE}
          scale={scale}
          top={top + i * each}
          height={each}
          left={left}
          right={right}
          edits={edits}
          tall={tall}
          first={i === 0}
        />
      ))}
    </g>
  );
}

const NONE: number[] = [];

/** One output. Answers keep the identity of what is the same in them, so that only strips that change are drawn. */
const Strip = memo(function Strip(
  props: Omit<LayerProps, "lanes"> & {
    lane: Lane;
    at: number[];
    edits: LayerEdits;
    tall: boolean;
    first: boolean;
  },
) {
  const { lane, at, scale, top, height, left, right, edits, tall, first } = props;
  const room = Math.min(10, height * 0.2);
  const reach: [number, number] = [top + height - room, top + room];
  const zooms = lane.what === "zoom";
  // A zoom that is drawn by its logarithm goes straight where it looks even.
  const y = (zooms ? scaleLog([lane.low, lane.high], reach) : scaleLinear([lane.low, lane.high], reach)) as Y;
  const within = (value: number) => Math.min(Math.max(value, lane.low), lane.high);
  const line = y(within(lane.lossless));
  return (
    <g data-output={lane.name}>
      {!first && <line x1={left} x2={right} y1={top} y2={top} stroke={colour("line")} />}
      <Label x={left - 10} y={top + Math.min(height / 2 + 4, 24)} textAnchor="end" size={13} weight={700}>
        {lane.name.length > 12 ? `${lane.name.slice(0, 11)}…` : lane.name}
      </Label>
      {tall && height > 40 && (
        <Label
          x={left - 10}
          y={top + Math.min(height / 2 + 4, 24) + 15}
          textAnchor="end"
          size={11}
          tone="inkSoft"
        >
          {zooms ? "zoom" : "view"}
        </Label>
      )}
      <g clipPath="url(#loom-lanes)">
        {zooms && (
          <path
            d={band(
              at,
              lane.least.map((one) => within(one)),
              lane.least.map(() => within(lane.lossless)),
              scale,
              y,
            )}
            fill={colour("accentSoft")}
            opacity={0.75}
          >
            <title>Room: no edge shows, no pixel is enlarged</title>
          </path>
        )}
        <line
          x1={left}
          x2={right}
          y1={line}
          y2={line}
          stroke={colour("inkSoft")}
          strokeWidth={1}
          strokeDasharray="7 4"
        />
        {height > 30 && (
          <Label x={right - 8} y={line - 4} textAnchor="end" size={11.5} figure tone="inkSoft" halo>
            {lane.lossless_told}
          </Label>
        )}
        <path
          data-testid={`crop-trace-${lane.index}`}
          d={trace(
            at,
            lane.values.map((one) => within(one)),
            scale,
            y,
          )}
          fill="none"
          stroke={colour("trace")}
          strokeWidth={1.7}
        />
        {lane.posts.map((post) => (
          <Post
            key={post.index}
            post={post}
            lane={lane}
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

/** A key of an output: dragged sideways in time, up and down in how close it is. */
function Post(props: {
  post: Lane["posts"][number];
  lane: Lane;
  scale: LayerProps["scale"];
  y: Y;
  foot: number;
  edits: LayerEdits;
  tall: boolean;
}) {
  const { post, lane, scale, y, foot, edits, tall } = props;
  const x = scale(post.at_s);
  const clip = (value: number) => Math.min(Math.max(value, lane.low), lane.high);
  const top = y(clip(post.value));
  const drag = useDrag({ post, y, top }, (base, dx, dy, end) => {
    const value = clip(base.y.invert(base.top + dy));
    const edit = outputEdit("put key", {
      output: lane.index,
      index: base.post.index,
      wall_s: Math.abs(dx) > 2 ? base.post.at_s + scale.invert(dx) - scale.invert(0) : null,
      values: lane.what === "zoom" ? { zoom: value } : { view_deg: value },
    });
    if (end) edits.commit(edit);
    else edits.preview(edit);
  });
  return (
    <g {...drag} style={{ cursor: "move" }} data-crop-post={`${lane.index}-${post.index}`}>
      <title>{`${post.moment}: ${post.said}`}</title>
      <Stem x={x} top={top} foot={foot} tall={tall} />
    </g>
  );
}
