import { useRef } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Leads } from "../app/parts";
import { colour, Label, trace } from "../draw/layer";
import { wallScale } from "../draw/scale";
import { useWidth } from "../draw/useWidth";

const LEFT = 130;
const TOP = 26;
const SKY = 96;
const ROW = 58;
const MOST_ROWS = 6;
const SHAPE = { stop: "fail", fix: "fail", mind: "accent", good: "hold" } as const;

/** The state of a shot as a shape on its bar, since colour alone does not tell it. */
function StateShape({ severity, x, y }: { severity: keyof typeof SHAPE; x: number; y: number }) {
  const fill = colour("card");
  if (severity === "good") return <circle cx={x + 5} cy={y + 5} r={4.5} fill={fill} />;
  if (severity === "mind") return <path d={`M${x + 2} ${y}a5 5 0 0 1 0 10z`} fill={fill} />;
  return <rect x={x} y={y} width={10} height={10} fill={fill} />;
}

/** The next day as a strip of light, with the planned shots laid on it. */
export function Strip({ now }: { now: Schemas["Tonight"] }) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const left = width < 600 ? 0 : LEFT;
  const x = wallScale({ from: now.from_s, to: now.to_s }, left, Math.max(width, left + 10));
  const altitude = (value: number) => TOP + SKY - 8 - (Math.max(value, -12) / 90) * (SKY - 8);
  // A day on which everything is planned is looked through under Shots.
  const laid = now.shots.filter((shot) => shot.row < MOST_ROWS);
  const more = now.shots.length - laid.length;
  const rows = Math.max(1, ...laid.map((shot) => shot.row + 1));
  const height = TOP + SKY + 22 + rows * ROW;
  return (
    <div ref={box}>
      {width > 0 && (
        <svg width={width} height={height} style={{ display: "block" }}>
          <title>The next day at this place</title>
          <defs>
            <linearGradient id="day" gradientUnits="userSpaceOnUse" x1={left} x2={width}>
              {now.sky.colour.map((shade, i) => (
                <stop key={now.sky.at_s[i]} offset={i / (now.sky.colour.length - 1)} stopColor={shade} />
              ))}
            </linearGradient>
            <clipPath id="day-sky">
              <rect x={left} y={TOP} width={width - left} height={SKY - 3} rx={4} />
            </clipPath>
          </defs>
          {now.ticks
            .filter((tick) => x(tick.at) > left + 8 && x(tick.at) < width - 10)
            .map((tick) => (
              <g key={tick.at}>
                <Label x={x(tick.at)} y={14} textAnchor="middle" size={13} figure tone="ink">
                  {tick.label}
                </Label>
                <line x1={x(tick.at)} x2={x(tick.at)} y1={19} y2={TOP} stroke={colour("inkSoft")} />
              </g>
            ))}
          {left > 0 && (
            <g textAnchor="end">
              <Label x={left - 14} y={TOP + 30} weight={700} size={14} tone="ink">
                Sky
              </Label>
              <Label x={left - 14} y={TOP + 50}>
                {now.dark}
              </Label>
              <Label x={left - 14} y={TOP + 66}>
                {now.dark_clock}
              </Label>
              <Label x={left - 14} y={TOP + 84}>
                {now.moon}
              </Label>
            </g>
          )}
          <rect className="sky" x={left} y={TOP} width={width - left} height={SKY} rx={4} fill="url(#day)" />
          <g clipPath="url(#day-sky)" fill="none" className="sky">
            <path
              d={trace(now.sky.at_s, now.sky.moon_altitude_deg, x, altitude)}
              stroke="#FFF8E7"
              strokeWidth={1.4}
              strokeDasharray="1 5"
              strokeLinecap="round"
            />
            <path
              d={trace(now.sky.at_s, now.sky.sun_altitude_deg, x, altitude)}
              stroke={colour("accent")}
              strokeWidth={2}
            />
          </g>
          {laid.map((shot) => {
            const from = Math.max(x(shot.from_s), left);
            const to = Math.min(x(shot.to_s), width);
            const y = TOP + SKY + 20 + shot.row * ROW;
            // Beside a bar that begins near the right edge its words stand before the edge.
            const late = from > width - (width > 700 ? 430 : 270);
            return (
              <g key={shot.id}>
                <rect
                  x={from}
                  y={y}
                  width={Math.max(to - from, 3)}
                  height={20}
                  rx={3}
                  fill={colour(SHAPE[shot.severity ?? "good"])}
                />
                <StateShape severity={shot.severity ?? "good"} x={from + 5} y={y + 5} />
                <Link to={`/shots/${shot.id}`}>
                  <Label x={late ? width - 4 : from} y={y + 38} size={14} textAnchor={late ? "end" : "start"}>
                    <tspan style={{ fontWeight: 700 }}>{shot.name}</tspan>
                    <tspan dx={8} style={{ fontSize: "13px", fill: colour("inkSoft"), fontWeight: 400 }}>
                      {shot.clock}
                      {width > 700 ? ` · ${shot.gear}` : ""}
                    </tspan>
                  </Label>
                </Link>
              </g>
            );
          })}
          <g>
            <line
              x1={x(now.now_s)}
              x2={x(now.now_s)}
              y1={TOP - 7}
              y2={height - 14}
              stroke={colour("accent")}
              strokeWidth={2}
            />
            <Label x={x(now.now_s) + 6} y={height - 4} size={12.5} tone="accentText">
              now
            </Label>
          </g>
        </svg>
      )}
      {more > 0 && (
        <Leads to="/shots" data-testid="more-shots">
          and {more} more {more === 1 ? "shot" : "shots"} at this place in these hours
        </Leads>
      )}
    </div>
  );
}
