import { scaleLinear } from "d3-scale";
import { band, colour, Label, LayerGround, type LayerProps, layerOf } from "../draw/layer";

/** What is left in the battery: a wedge that ends where the battery does. */
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
          d={band(
            at,
            rest.map(() => 0),
            rest,
            scale,
            y,
          )}
          fill={colour("line")}
        />
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
  ["battery_ends"],
  ["at_s", "battery_left"],
);

/** What the frames have filled of the card. */
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
        <line x1={left} x2={right} y1={y(1)} y2={y(1)} stroke={colour("line")} strokeDasharray="3 3" />
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
  ["card_full_at_s"],
  ["at_s", "card_filled"],
);
