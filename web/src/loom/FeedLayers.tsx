import { scaleLinear } from "d3-scale";
import { band, colour, Label, LayerGround, type LayerProps, layerOf, trace } from "../draw/layer";

/** What is left for the camera, within what it may be at best and at worst; whatever else runs out is dotted. */
export const EnergyLayer = layerOf(
  function EnergyLayer(props: LayerProps) {
    const { lanes, scale, top, height, left, right } = props;
    const frames = lanes.frames as Record<string, number[]>;
    const at = frames.at_s ?? [];
    const rest = frames.battery_left ?? [];
    const y = scaleLinear([0, 1], [top + height - 4, top + 5]);
    return (
      <LayerGround name="Energy" unit="battery left" top={top} height={height} left={left} right={right}>
        <path
          d={band(at, frames.battery_worst ?? [], frames.battery_best ?? [], scale, y)}
          fill={colour("line")}
        />
        {lanes.other_supplies.map((one) => (
          <path
            key={one.name}
            d={trace(at, one.left, scale, y)}
            fill="none"
            stroke={colour("inkSoft")}
            strokeWidth={1.2}
            strokeDasharray="2 4"
          />
        ))}
        <path d={trace(at, rest, scale, y)} fill="none" stroke={colour("ink")} strokeWidth={1.8} />
        {lanes.battery_changes.map((one) => (
          <g key={`${one.name} ${one.at_s}`}>
            <line
              x1={scale(one.at_s)}
              x2={scale(one.at_s)}
              y1={top}
              y2={top + height}
              stroke={colour("accent")}
              strokeDasharray="5 3"
            />
            <Label x={scale(one.at_s) + 5} y={top + height - 5} size={11} tone="accent" halo>
              change
            </Label>
          </g>
        ))}
        {lanes.battery_ends.map((end, i) => {
          const x = scale(end.at_s);
          const before = x > left + 190;
          return (
            <g key={end.name}>
              <line x1={x} x2={x} y1={top} y2={top + height} stroke={colour("fail")} strokeWidth={2} />
              <Label
                x={before ? x - 6 : x + 6}
                y={top + 15 + Math.min(i * 14, height - 18)}
                textAnchor={before ? "end" : "start"}
                size={11.5}
                weight={600}
                tone="fail"
                halo
              >
                {`battery of ${end.name} is empty`}
              </Label>
            </g>
          );
        })}
      </LayerGround>
    );
  },
  ["battery_ends", "battery_changes", "other_supplies"],
  ["at_s", "battery_left", "battery_best", "battery_worst"],
);

/** What the frames have filled of the card, with a notch where a recording goes on in a new file. */
export const CardLayer = layerOf(
  function CardLayer(props: LayerProps) {
    const { lanes, scale, top, height, left, right } = props;
    const frames = lanes.frames as Record<string, number[]>;
    const at = frames.at_s ?? [];
    const used = frames.card_filled ?? [];
    const y = scaleLinear([0, 1], [top + height - 3, top + 4]);
    const fullX = lanes.card_full_at_s === null ? null : scale(lanes.card_full_at_s);
    return (
      <LayerGround name="Card" unit="filled" top={top} height={height} left={left} right={right}>
        {[1, 1 - lanes.card_reserve].map((part) => (
          <line
            key={part}
            x1={left}
            x2={right}
            y1={y(part)}
            y2={y(part)}
            stroke={colour("line")}
            strokeDasharray={part === 1 ? "3 3" : "1 4"}
          />
        ))}
        <path
          d={band(
            at,
            used.map(() => 0),
            used,
            scale,
            y,
          )}
          fill={colour("inkSoft")}
          opacity={0.75}
        />
        {lanes.card_files_end_s.map((end) => (
          <line
            key={end}
            x1={scale(end)}
            x2={scale(end)}
            y1={top + height * 0.55}
            y2={top + height}
            stroke={colour("lane")}
            strokeWidth={1.5}
          />
        ))}
        {fullX !== null && (
          <g>
            <line x1={fullX} x2={fullX} y1={top} y2={top + height} stroke={colour("fail")} strokeWidth={2} />
            <Label
              x={fullX > right - 90 ? fullX - 6 : fullX + 6}
              textAnchor={fullX > right - 90 ? "end" : "start"}
              y={top + 14}
              size={11.5}
              weight={600}
              tone="fail"
              halo
            >
              card is full
            </Label>
          </g>
        )}
      </LayerGround>
    );
  },
  ["card_full_at_s", "card_files_end_s", "card_reserve"],
  ["at_s", "card_filled"],
);
