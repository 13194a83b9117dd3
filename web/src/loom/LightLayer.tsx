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
  const worst = error.reduce(
    (most, value, i) => (Math.abs(value) > Math.abs(error[most] ?? 0) ? i : most),
    0,
  );
  const off = error[worst] ?? 0;
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
      {Math.abs(off) >= 0.3 && <path d={band(at, scene, given, scale, y)} fill={colour("failSoft")} />}
      <path
        d={trace(at, given, scale, y)}
        fill="none"
        stroke={colour("trace")}
        strokeWidth={1.6}
        strokeDasharray="5 3"
      />
      <path d={trace(at, scene, scale, y)} fill="none" stroke={colour("accent")} strokeWidth={2} />
      {Math.abs(off) >= 0.5 && (
        <Label
          x={Math.min(Math.max(scale(at[worst] ?? 0), left + 90), right - 90)}
          y={Math.min(y(Math.max(scene[worst] ?? 0, given[worst] ?? 0)) - 6, top + height - 8)}
          textAnchor="middle"
          size={11.5}
          weight={600}
          tone="fail"
        >
          {`${Math.abs(off).toFixed(1)} stops too ${off > 0 ? "bright" : "dark"}`}
        </Label>
      )}
    </LayerGround>
  );
}
