import { memo, useRef } from "react";
import type { Schemas } from "../../api/client";
import { colour, Label } from "../../draw/layer";
import { useDrag } from "../../draw/useDrag";
import { useWidth } from "../../draw/useWidth";

type Panel = Schemas["OutputPanel"];
export type Outline = Panel["outlines"][number];

/** Each output has its own stroke, so that they are told apart without colour. */
const DASHES = [undefined, "9 4", "2 4", "12 3 2 3", "5 5", "1 6", "14 6", "3 2"];
const STEPS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-0.01, 0],
  ArrowRight: [0.01, 0],
  ArrowUp: [0, -0.01],
  ArrowDown: [0, 0.01],
};
const CLOSER: Record<string, number> = { "+": 1.05, "=": 1.05, "-": 1 / 1.05 };

/**
 * The picture at a frame with what each output cuts out of it. The chosen one is dragged, and sized by + and −; over
 * an unrolled sphere, its look is turned.
 */
export const Finder = memo(function Finder(props: {
  panel: Panel;
  picture: string | null;
  chosen: number;
  onChoose: (index: number) => void;
  onShift: (outline: Outline, by: Record<string, number>, end: boolean) => void;
}) {
  const { panel, picture, chosen, onChoose, onShift } = props;
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const height = width / panel.aspect;
  const outline = panel.outlines.find((one) => one.index === chosen);
  const drag = useDrag(outline, (from, dx, dy, end) => {
    if (from) onShift(from, { across: dx / width, down: dy / height }, end);
  });
  const path = (points: number[][]) =>
    points
      .map(([px = 0, py = 0], i) => `${i ? "L" : "M"}${(px * width).toFixed(1)} ${(py * height).toFixed(1)}`)
      .join("");
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (!outline) return;
    const step = STEPS[event.key];
    const times = CLOSER[event.key];
    if (!step && !times) return;
    event.preventDefault();
    event.stopPropagation();
    const far = event.shiftKey ? 5 : 1;
    if (step) onShift(outline, { across: step[0] * far, down: step[1] * far }, true);
    else if (times) onShift(outline, { closer: times }, true);
  };
  return (
    <div ref={box}>
      {width > 0 && (
        <svg
          width={width}
          height={height}
          role="application"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: the frame is moved by the arrows
          tabIndex={0}
          aria-label={`The picture at frame ${panel.number}; the arrows move the frame of ${outline?.name ?? "no output"}`}
          data-testid="finder"
          style={{ display: "block", touchAction: "none", cursor: outline && "move" }}
          onKeyDown={onKeyDown}
          {...drag}
        >
          <rect width={width} height={height} fill={colour("lane")} />
          {picture && <image href={picture} width={width} height={height} preserveAspectRatio="none" />}
          {panel.marks.map(({ name, x, y }) => (
            <g key={name} transform={`translate(${x * width} ${y * height})`}>
              <path d="M-5 0h10m-5 -5v10" stroke={colour("card")} strokeWidth={3} />
              <path d="M-5 0h10m-5 -5v10" stroke={colour("ink")} strokeWidth={1.2} />
              <Label x={8} y={-4} size={11.5} halo>
                {name}
              </Label>
            </g>
          ))}
          {panel.outlines.map((one) => {
            const on = one.index === chosen;
            const [first] = one.pieces[0] ?? [];
            return (
              <g key={one.index} onPointerDownCapture={() => onChoose(one.index)} data-outline={one.name}>
                {(on ? one.way : []).map((points) => (
                  <path
                    key={`${points[0]}`}
                    d={path(points)}
                    fill="none"
                    stroke={colour("accent")}
                    strokeWidth={1.4}
                    strokeDasharray="2 3"
                  />
                ))}
                {one.pieces.map((points) => (
                  <g key={`${points[0]}`}>
                    <path
                      d={`${path(points)}${panel.sphere ? "" : "Z"}`}
                      fill={panel.sphere ? "none" : "transparent"}
                      stroke={colour("card")}
                      strokeWidth={on ? 5 : 3.4}
                      opacity={0.8}
                    />
                    <path
                      d={`${path(points)}${panel.sphere ? "" : "Z"}`}
                      fill="none"
                      stroke={colour(on ? "accent" : "ink")}
                      strokeWidth={on ? 2.6 : 1.4}
                      strokeDasharray={DASHES[one.index % DASHES.length]}
                    />
                  </g>
                ))}
                {first && (
                  <Label
                    x={clip((first[0] ?? 0) * width + 6, 4, width - 80)}
                    y={clip((first[1] ?? 0) * height + 15, 14, height - 6)}
                    size={12}
                    weight={on ? 700 : 400}
                    halo
                  >
                    {one.name}
                  </Label>
                )}
              </g>
            );
          })}
        </svg>
      )}
    </div>
  );
});

const clip = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high);
