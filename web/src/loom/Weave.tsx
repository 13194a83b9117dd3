import { scaleLinear } from "d3-scale";
import { Fragment } from "react";
import type { Plan } from "../api/client";
import { useStrip } from "../desk/pictures";
import { colour, Label, trace } from "../draw/layer";
import type { Scale } from "../draw/scale";

interface WeaveProps {
  plan: Plan;
  scale: Scale;
  top: number;
  height: number;
  film: number;
  left: number;
  right: number;
  cursor: { at: number; film: number } | null;
}

/** The threads that gather wall time into film time, and the film itself as small computed pictures. */
export function Weave({ plan, scale, top, height, film, left, right, cursor }: WeaveProps) {
  const { lanes } = plan;
  const inset = (right - left) * 0.17;
  const x = scaleLinear([0, lanes.film_s], [left + inset, right - inset]);
  const thread = (at: number, filmAt: number) => {
    const from = scale(at);
    const to = x(filmAt);
    const bend = height * 0.55;
    return `M${from.toFixed(1)} ${top}C${from.toFixed(1)} ${top + bend} ${to.toFixed(1)} ${top + height - bend} ${to.toFixed(1)} ${top + height}`;
  };
  const { threads } = lanes;
  const many = (strong: boolean) =>
    threads.at_s
      .map((at, i) => (threads.strong[i] === strong ? thread(at, threads.film_s[i] ?? 0) : ""))
      .join("");
  const frames = lanes.frames as Record<string, number[]>;
  const speeds = frames.speed_up ?? [];
  const [slow, fast] = [Math.min(...speeds), Math.max(...speeds)];
  // A pace that changes is drawn over the threads that it thins out.
  const pace = fast > slow * 1.05 ? scaleLinear([slow, fast], [top + height - 8, top + 10]) : null;
  return (
    <g>
      <Label x={left - 10} y={top + height / 2} textAnchor="end" size={13} weight={700} tone="ink">
        <title>Each thread leads from the moment of a frame to its place in the film</title>
        Weave
      </Label>
      {plan.speed_up.split(", ").map((part, i) => (
        <Label
          key={part}
          x={left - 10}
          y={top + height / 2 + 15 + i * 14}
          textAnchor="end"
          size={11.5}
          figure
          tone="inkSoft"
        >
          {part}
        </Label>
      ))}
      <g clipPath="url(#loom-lanes)" fill="none">
        <path
          data-testid="threads"
          d={many(false)}
          stroke={colour("inkSoft")}
          strokeWidth={0.6}
          opacity={0.55}
        />
        <path d={many(true)} stroke={colour("trace")} strokeWidth={1} />
        {cursor && <path d={thread(cursor.at, cursor.film)} stroke={colour("accent")} strokeWidth={2} />}
      </g>
      {pace && (
        <g clipPath="url(#loom-lanes)" data-testid="pace">
          <path
            d={trace(frames.at_s ?? [], speeds, scale, pace)}
            fill="none"
            stroke={colour("accent")}
            strokeWidth={2}
            strokeDasharray="8 3"
          />
          {[0, speeds.length - 1].map((i) => (
            <Label
              key={i}
              x={Math.min(Math.max(scale(frames.at_s?.[i] ?? 0), left + 8), right - 60)}
              y={pace(speeds[i] ?? 0) - 5}
              size={11.5}
              figure
              tone="accentText"
              halo
            >
              {`${Math.round(speeds[i] ?? 0).toLocaleString("en")} ×`}
            </Label>
          ))}
        </g>
      )}
      <Label x={left - 10} y={top + height + film / 2 + 5} textAnchor="end" size={13} weight={700} tone="ink">
        Film
      </Label>
      <Pictures shot={plan.shot} cells={lanes.film} x={x} top={top + height} height={film} />
      {cursor && (
        <line
          x1={x(cursor.film)}
          x2={x(cursor.film)}
          y1={top + height}
          y2={top + height + film + 3}
          stroke={colour("accent")}
          strokeWidth={2}
        />
      )}
      {lanes.film_ticks.map((tick) => (
        <Label
          key={tick.at}
          x={x(tick.at)}
          y={top + height + film + 17}
          textAnchor="middle"
          size={12}
          figure
          tone="ink"
        >
          {tick.label}
        </Label>
      ))}
      <Label x={right - inset + 12} y={top + height + 17} size={11.5} tone="inkSoft">
        {plan.solved.frame_count.toLocaleString("en")} frames
      </Label>
      <Label x={right - inset + 12} y={top + height + 32} size={11.5} tone="inkSoft">
        at {plan.solved.fps} fps
      </Label>
    </g>
  );
}

/** The small pictures of the film; until they are there, the colours of its sky. */
function Pictures(props: {
  shot: Plan["shot"];
  cells: Plan["lanes"]["film"];
  x: Scale;
  top: number;
  height: number;
}) {
  const { shot, cells, x, top, height } = props;
  const strip = useStrip(shot, cells.length);
  return cells.map((cell, i) => {
    const from = x(cell.from_s) + 0.75;
    const width = Math.max(x(cell.to_s) - x(cell.from_s) - 1.5, 0.5);
    return (
      <Fragment key={cell.from_s}>
        <defs>
          <linearGradient id={`cell${i}`} x1="0" x2="0" y1="0" y2="1">
            <stop offset="0" stopColor={cell.zenith} />
            <stop offset="0.75" stopColor={cell.horizon} />
          </linearGradient>
        </defs>
        <rect className="sky" x={from} y={top} width={width} height={height} fill={`url(#cell${i})`} />
        {strip && (
          // The middle of each picture fills its cell.
          <svg
            x={from}
            y={top}
            width={width}
            height={height}
            viewBox={`${i * strip.wide} 0 ${strip.wide} ${strip.high}`}
            preserveAspectRatio="xMidYMid slice"
            role="presentation"
            data-strip
          >
            <image
              className="sky"
              href={strip.address}
              width={strip.wide * cells.length}
              height={strip.high}
            />
          </svg>
        )}
      </Fragment>
    );
  });
}
