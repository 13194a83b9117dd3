import { type ScaleLinear, scaleLinear } from "d3-scale";
import type { DeskEdit } from "../api/client";
import {
  band,
  clearSpot,
  colour,
  Label,
  LayerGround,
  type LayerProps,
  layerOf,
  textWidth,
  trace,
} from "../draw/layer";
import { useDrag } from "../draw/useDrag";

/** What the layer hands back while something on it is dragged, and when it is let go. */
export interface LayerEdits {
  preview: (edit: DeskEdit) => void;
  commit: (edit: DeskEdit) => void;
}

const DASHES: Record<string, string | undefined> = {
  shutter_stops: undefined,
  iso_stops: "7 3",
  aperture_stops: "2 3",
};
const THIRD = 1 / 3;

/**
 * The scene with its band of cloud, what the frames get, and, where there is room, the settings as
 * three traces on one scale of stops. Limits and wishes can be dragged.
 */
export const LightLayer = layerOf(
  function LightLayer(props: LayerProps & { edits: LayerEdits }) {
    const { lanes, scale, top, height, left, right, edits } = props;
    const frames = lanes.frames as Record<string, number[]>;
    const at = frames.at_s ?? [];
    const scene = frames.scene_ev ?? [];
    const given = frames.given_ev ?? [];
    const [darker = 0, brighter = 0] = lanes.cloud_stops;
    const lower = scene.map((value) => value + darker);
    const upper = scene.map((value) => value + brighter);
    const tall = height > 150;
    const evHeight = tall ? height * 0.58 : height;
    const low = Math.min(...lower, ...given) - 0.5;
    const high = Math.max(...upper, ...given) + 0.5;
    const y = scaleLinear([low, high], [top + evHeight - 4, top + 4]);
    const lines = y.ticks(evHeight > 100 ? 6 : evHeight > 60 ? 4 : 2);
    const drawn = [scene, given].map((values) =>
      values.map((value, i): [number, number] => [scale(at[i] ?? 0), y(value)]),
    );
    return (
      <>
        <LayerGround name="Light" unit="EV at ISO 100" top={top} height={height} left={left} right={right}>
          <path d={band(at, lower, upper, scale, y)} fill={colour("accentSoft")} opacity={0.55}>
            <title>From overcast to clear</title>
          </path>
          {lanes.off && <path d={band(at, scene, given, scale, y)} fill={colour("failSoft")} />}
          <path
            d={trace(at, given, scale, y)}
            fill="none"
            stroke={colour("trace")}
            strokeWidth={1.6}
            strokeDasharray="5 3"
          />
          <path d={trace(at, scene, scale, y)} fill="none" stroke={colour("accent")} strokeWidth={2} />
          {lines.map((value) => {
            const text = `EV ${String(value).replace("-", "−")}`;
            const wide = textWidth(text, 10.5) + 8;
            const spot = clearSpot([{ x: right - 6 - wide / 2, y: y(value) - 3 }], wide, 11, drawn);
            return (
              <g key={value}>
                <line
                  x1={left}
                  x2={right}
                  y1={y(value)}
                  y2={y(value)}
                  stroke={colour("line")}
                  strokeWidth={0.7}
                />
                {spot && (
                  <Label x={right - 6} y={spot.y} textAnchor="end" size={10.5} figure tone="inkSoft">
                    {text}
                  </Label>
                )}
              </g>
            );
          })}
          {lanes.notes.map((note) => {
            const wide = textWidth(note.text, 12);
            const x = Math.min(Math.max(scale(note.at_s), left + wide / 2 + 6), right - wide / 2 - 70);
            // Below the scene, above what the frames get, else wherever nothing is drawn; the finding says it, too.
            const rows = [y(note.ev) + 15, top + 14, top + evHeight - 7, top + evHeight / 2];
            const spots = rows
              .map((row) => Math.min(Math.max(row, top + 14), top + evHeight - 7))
              .flatMap((row) =>
                [x, left + wide / 2 + 6, right - wide / 2 - 70].map((at) => ({ x: at, y: row })),
              );
            const spot = clearSpot(spots, wide, 12, drawn);
            return (
              spot && (
                <Label
                  key={note.at_s}
                  x={spot.x}
                  y={spot.y}
                  textAnchor="middle"
                  size={11.5}
                  weight={600}
                  tone="fail"
                  halo
                >
                  {note.text}
                </Label>
              )
            );
          })}
          {lanes.light_enough.map(({ from_s: from, to_s: to }) => (
            <g key={from} data-testid="light-enough">
              <title>Light enough for this rate</title>
              <line
                x1={Math.max(scale(from), left)}
                x2={Math.min(scale(to), right)}
                y1={top + evHeight - 2}
                y2={top + evHeight - 2}
                stroke={colour("hold")}
                strokeWidth={4}
              />
              {Math.min(scale(to), right) - Math.max(scale(from), left) > 110 && (
                <Label
                  x={Math.max(scale(from), left) + 8}
                  y={top + evHeight - 7}
                  size={11}
                  tone="inkSoft"
                  halo
                >
                  light enough
                </Label>
              )}
            </g>
          ))}
          {lanes.wishes.map((wish) => (
            <Post key={wish.index} wish={wish} scale={scale} y={y} foot={top + evHeight} edits={edits} />
          ))}
        </LayerGround>
        {tall && <Settings {...props} top={top + evHeight} height={height - evHeight} />}
      </>
    );
  },
  ["cloud_stops", "light_enough", "notes", "wishes", "handles", "traces", "off"],
  ["at_s", "scene_ev", "given_ev", "shutter_stops", "iso_stops", "aperture_stops"],
);

/** Shutter, ISO and aperture in stops of light over their least, and the limits that can be dragged. */
function Settings(props: LayerProps & { edits: LayerEdits }) {
  const { lanes, scale, top, height, left, right, edits } = props;
  const frames = lanes.frames as Record<string, number[]>;
  const at = frames.at_s ?? [];
  const reach = Math.max(1, ...lanes.traces.map((one) => one.most), ...lanes.handles.map((one) => one.stops));
  const y = scaleLinear([0, reach], [top + height - 8, top + 12]);
  const moving = lanes.traces.filter((one) => one.most > 0);
  const shown = moving.length ? moving : lanes.traces;
  return (
    <g>
      <line x1={left} x2={right} y1={top} y2={top} stroke={colour("line")} />
      {shown.map((one, i) => {
        // A setting that stands still lies on the foot of the scale.
        const values = frames[one.column] ?? at.map(() => 0);
        return (
          <g key={one.column}>
            <path
              d={trace(at, values, scale, y)}
              clipPath="url(#loom-lanes)"
              fill="none"
              stroke={colour("trace")}
              strokeWidth={1.5}
              strokeDasharray={DASHES[one.column]}
            />
            <line
              x1={left - 100}
              x2={left - 68}
              y1={top + 12 + i * 30}
              y2={top + 12 + i * 30}
              stroke={colour("trace")}
              strokeWidth={1.5}
              strokeDasharray={DASHES[one.column]}
            />
            <Label x={left - 10} y={top + 16 + i * 30} textAnchor="end" size={11.5} tone="ink">
              {one.name}
            </Label>
            <Label x={left - 10} y={top + 29 + i * 30} textAnchor="end" size={10.5} figure tone="inkSoft">
              {one.first === one.last ? one.first : `${one.first} – ${one.last}`}
            </Label>
          </g>
        );
      })}
      {lanes.handles.map((one) => (
        <Limit key={one.field} handle={one} y={y} right={right} edits={edits} />
      ))}
    </g>
  );
}

type Y = ScaleLinear<number, number>;

/** A limit of a ramp, drawn as a ledge at the right; dragged, it moves by thirds of a stop. */
function Limit(props: {
  handle: LayerProps["lanes"]["handles"][number];
  y: Y;
  right: number;
  edits: LayerEdits;
}) {
  const { handle, y, right, edits } = props;
  const drag = useDrag(Math.abs(y(THIRD) - y(0)), (perThird, _dx, dy, end) => {
    const edit: DeskEdit = { field: handle.field, nudge: -Math.round(dy / perThird), free: false };
    if (end) edits.commit(edit);
    else edits.preview(edit);
  });
  const at = y(handle.stops);
  return (
    <g {...drag} style={{ cursor: "ns-resize" }} data-handle={handle.field}>
      <rect x={right - 140} y={at - 9} width={140} height={18} fill="transparent" />
      <path
        d={`M${right - 34} ${at}H${right - 8}m0 -5v10`}
        stroke={colour("accent")}
        strokeWidth={2.5}
        fill="none"
      />
      <Label x={right - 40} y={at - 6} textAnchor="end" size={11.5} weight={600} tone="accentText">
        {handle.label}
      </Label>
    </g>
  );
}

/** A wish for brightness: a post from the scene to where it is wanted. A double click takes it away. */
function Post(props: {
  wish: LayerProps["lanes"]["wishes"][number];
  scale: LayerProps["scale"];
  y: Y;
  foot: number;
  edits: LayerEdits;
}) {
  const { wish, scale, y, foot, edits } = props;
  const x = scale(wish.at_s);
  const top = y(wish.ev);
  const drag = useDrag({ wish, y }, (base, dx, dy, end) => {
    const edit: DeskEdit = {
      track: "light",
      action: "move",
      index: base.wish.index,
      at_s: base.wish.at_s + scale.invert(dx) - scale.invert(0),
      bias_stops: base.wish.bias_stops - (base.y.invert(dy) - base.y.invert(0)),
    };
    if (end) edits.commit(edit);
    else edits.preview(edit);
  });
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the sentence's controls do the same by keyboard
    <g
      {...drag}
      style={{ cursor: "move" }}
      data-testid="light-post"
      onDoubleClick={(event) => {
        event.stopPropagation();
        edits.commit({ track: "light", action: "remove", index: wish.index });
      }}
    >
      <rect
        x={x - 9}
        y={Math.min(top, foot) - 8}
        width={18}
        height={Math.abs(foot - top) + 8}
        fill="transparent"
      />
      <line x1={x} x2={x} y1={top} y2={foot} stroke={colour("accent")} strokeWidth={2} />
      <line x1={x - 7} x2={x + 7} y1={top} y2={top} stroke={colour("accent")} strokeWidth={3.5} />
      <Label x={x + 10} y={top + 4} size={11.5} weight={600} tone="accentText" halo>
        {wish.text}
      </Label>
    </g>
  );
}
