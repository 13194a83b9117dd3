import { scaleLinear } from "d3-scale";
import { band, colour, Label, LayerGround, type LayerProps, trace } from "./layer";

/** What the scene asks for and what the frames get, on one scale of stops; the gap is the error. */
export function LightLayer(props: LayerProps) {
  const { lanes, scale, top, height, left, right } = props;
  const frames = lanes.frames as Record<string, number[]>;
  const at = frames.at_s ?? [];
  const scene = frames.scene_ev ?? [];
  const error = frames.error_stops ?? [];
  const given = scene.map((value, i) => value - (error[i] ?? 0));
  const low = Math.min(...scene, ...given) - 1;
  const high = Math.max(...scene, ...given) + 1;
  const y = scaleLinear([low, high], [top + height - 4, top + 4]);
  const lines = y.ticks(height > 120 ? 7 : 4);
  const off = error.some((value) => Math.abs(value) >= 0.3);
  return (
    <LayerGround name="Light" unit="EV at ISO 100" top={top} height={height} left={left} right={right}>
      {lines.map((value) => (
        <g key={value}>
          <line x1={left} x2={right} y1={y(value)} y2={y(value)} stroke={colour("line")} strokeWidth={0.7} />
          <Label x={right - 6} y={y(value) - 3} textAnchor="end" size={10.5} figure tone="inkSoft">
            {`EV ${String(value).replace("-", "−")}`}
          </Label>
        </g>
      ))}
      {off && <path d={band(at, scene, given, scale, y)} fill={colour("failSoft")} />}
      <path
        d={trace(at, given, scale, y)}
        fill="none"
        stroke={colour("trace")}
        strokeWidth={1.6}
        strokeDasharray="5 3"
      />
      <path d={trace(at, scene, scale, y)} fill="none" stroke={colour("accent")} strokeWidth={2} />
      {lanes.notes.map((note) => (
        <Label
          key={note.text}
          x={Math.min(Math.max(scale(note.at_s), left + 150), right - 170)}
          y={Math.min(Math.max(y(note.ev) + 15, top + 14), top + height - 7)}
          textAnchor="middle"
          size={11.5}
          weight={600}
          tone="fail"
          halo
        >
          {note.text}
        </Label>
      ))}
    </LayerGround>
  );
}
