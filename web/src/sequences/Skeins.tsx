import { useRef } from "react";
import type { Schemas } from "../api/client";
import { colour, Label } from "../draw/layer";
import { useWidth } from "../draw/useWidth";

const TOP = 40;
const EDGE = 12;
const HIGH = 120;
const LEAST = 3;

/** What each cut gathers: wall time with its light above, the film of the sequence below. */
export function Skeins(props: {
  skeins: Schemas["Skein"][];
  days: Schemas["WallDay"][];
  chosen: number | null;
  onChoose: (at: number) => void;
}) {
  const { skeins, days, chosen, onChoose } = props;
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const film = TOP + EDGE + HIGH;
  const height = film + 40;
  const x = (part: number) => 6 + part * (width - 12);
  // Drawn last, so that it lies over the others.
  const drawn = [...skeins].sort((a, b) => Number(a.at === chosen) - Number(b.at === chosen));
  return (
    <div ref={box}>
      {width > 0 && (
        <svg width={width} height={height} role="img" aria-label="What each cut gathers" data-testid="skeins">
          {days.map((day, i) => (
            <g key={day.label}>
              <line
                x1={x(day.at)}
                x2={x(day.at)}
                y1={4}
                y2={TOP + EDGE}
                stroke={colour("inkSoft")}
                strokeWidth={0.8}
              />
              {(i === 0 || x(day.at) - x(days[i - 1]?.at ?? 0) > 78) && (
                <Label x={x(day.at) + 4} y={15} size={12.5} tone="ink">
                  {day.label}
                </Label>
              )}
            </g>
          ))}
          {drawn.map((one) => {
            const [a, c, d] = [x(one.wall_from), x(one.film_from), x(one.film_to)];
            const b = Math.max(x(one.wall_to), a + LEAST);
            const top = TOP + EDGE;
            const bend = HIGH * 0.55;
            const mine = one.at === chosen;
            return (
              // biome-ignore lint/a11y/useSemanticElements: a part of a drawing
              <g
                key={one.at}
                role="button"
                tabIndex={-1}
                aria-label={`Cut ${one.at + 1}: ${one.name}`}
                style={{ cursor: "pointer" }}
                onClick={() => onChoose(one.at)}
                onKeyDown={(event) => event.key === "Enter" && onChoose(one.at)}
              >
                <title>{`${one.at + 1} ${one.name}, from ${one.clock}`}</title>
                {one.colours.map((shade, i) => (
                  <rect
                    // biome-ignore lint/suspicious/noArrayIndexKey: shades stand still
                    key={i}
                    className="sky"
                    x={a + ((b - a) * i) / one.colours.length}
                    y={TOP}
                    width={(b - a) / one.colours.length + 0.5}
                    height={EDGE}
                    fill={shade}
                  />
                ))}
                <path
                  d={`M${a} ${top}C${a} ${top + bend} ${c} ${film - bend} ${c} ${film}H${d}C${d} ${film - bend} ${b} ${top + bend} ${b} ${top}Z`}
                  fill={colour(mine ? "accentSoft" : "lane")}
                  fillOpacity={mine ? 0.9 : 0.55}
                  stroke={colour(mine ? "accent" : "inkSoft")}
                  strokeWidth={mine ? 2 : 0.8}
                />
                <rect
                  x={c + 0.75}
                  y={film}
                  width={Math.max(d - c - 1.5, 0.5)}
                  height={EDGE + 4}
                  fill={colour(mine ? "accent" : "inkSoft")}
                />
                {d - c > 18 && (
                  <Label x={(c + d) / 2} y={film + 31} textAnchor="middle" size={12} figure tone="ink">
                    {one.at + 1}
                  </Label>
                )}
              </g>
            );
          })}
        </svg>
      )}
    </div>
  );
}
