import { colour } from "./layer";

/** A key on the loom: a stem with a flat head, from the foot of its strip to its value, in a box that is easily hit. */
export function Stem({ x, top, foot, tall }: { x: number; top: number; foot: number; tall: boolean }) {
  return (
    <>
      <rect
        x={x - 9}
        y={Math.min(top, foot) - 9}
        width={18}
        height={Math.abs(foot - top) + 9}
        fill="transparent"
      />
      <line x1={x} x2={x} y1={top} y2={foot} stroke={colour("trace")} strokeWidth={tall ? 2 : 1.4} />
      <line
        x1={x - (tall ? 7 : 4)}
        x2={x + (tall ? 7 : 4)}
        y1={top}
        y2={top}
        stroke={colour("trace")}
        strokeWidth={tall ? 3.5 : 2.4}
      />
    </>
  );
}
