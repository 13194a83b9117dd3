import { chakra } from "@chakra-ui/react";
import { colour } from "../draw/layer";

/** A stroke or a patch of a picture, in a box of 240 × 76. */
interface Stroke {
  d: string;
  tone?: string;
  wide?: number;
  dash?: string;
  fill?: boolean;
}

type Words = readonly [x: number, y: number, text: string];

interface Drawn {
  rules: readonly string[];
  strokes: readonly Stroke[];
  words: readonly Words[];
}

const box = (x: number, y: number, w: number, h: number) => `M${x} ${y}h${w}v${h}h${-w}z`;

const DRAWN: readonly Drawn[] = [
  {
    rules: ["timing.interval-too-short", "exposure.shutter-capped", "move.travel"],
    strokes: [
      { d: box(6, 22, 110, 22), tone: "accent", fill: true },
      { d: box(116, 22, 36, 22), tone: "inkSoft", fill: true },
      { d: box(152, 22, 48, 22), tone: "hold", fill: true },
      { d: "M6 14v38M200 14v38M6 14h6M200 14h-6" },
    ],
    words: [
      [40, 64, "shutter"],
      [112, 64, "store"],
      [154, 64, "move"],
      [84, 11, "one interval"],
    ],
  },
  {
    rules: ["exposure.flicker", "exposure.dead-band"],
    strokes: [
      { d: "M8 22l12 12 8-14 12 18 8-16 12 14 8-18 12 16 8-10 12 16 8-18 12 10", tone: "fail", wide: 2 },
      { d: "M128 30c30-6 60 6 104 0", tone: "hold", wide: 2.5 },
    ],
    words: [
      [34, 66, "flickers"],
      [158, 66, "is even"],
    ],
  },
  {
    rules: ["exposure.iso-ceiling-shortens"],
    strokes: [
      { d: box(8, 14, 24, 14), tone: "fail", fill: true },
      { d: box(8, 44, 190, 14), tone: "hold", fill: true },
    ],
    words: [
      [40, 26, "shutter under a high ceiling"],
      [96, 72, "under a low one"],
    ],
  },
  {
    rules: ["night.trailing", "night.points"],
    strokes: [
      { d: "M40 34h.1", wide: 7, tone: "accent" },
      { d: "M130 42l62-18", wide: 5, tone: "fail" },
    ],
    words: [
      [14, 64, "short: a point"],
      [130, 64, "long: a dash"],
    ],
  },
  {
    rules: ["night.dark-gap"],
    strokes: [
      { d: "M12 44q108-46 216 0", wide: 3, tone: "hold" },
      { d: "M12 62q108-46 216 0", wide: 3, tone: "fail", dash: "16 6" },
    ],
    words: [[86, 74, "gaps between frames"]],
  },
  {
    rules: ["move.staircase"],
    strokes: [
      { d: "M10 62L230 12", tone: "inkSoft", dash: "4 4" },
      { d: "M10 62h44v-12h44v-12h44v-12h44v-12h44", tone: "fail", wide: 2.5 },
    ],
    words: [[128, 68, "frames stand, then jump"]],
  },
  {
    rules: ["move.speed", "move.acceleration"],
    strokes: [
      { d: "M10 62L54 22h112L210 62", wide: 2.5, tone: "accent" },
      { d: "M6 30h216", tone: "fail", dash: "6 4" },
    ],
    words: [
      [152, 26, "what the axis does"],
      [98, 66, "speed over time"],
    ],
  },
  {
    rules: ["move.loop-jump"],
    strokes: [
      { d: "M12 60L92 16", wide: 2.5, tone: "accent" },
      { d: "M92 16v44", tone: "fail", wide: 2.5, dash: "4 3" },
      { d: "M92 60l80-44", wide: 2.5, tone: "accent" },
    ],
    words: [[100, 40, "in no time"]],
  },
  {
    rules: ["move.no-foreground"],
    strokes: [
      { d: "M20 64h80", wide: 3 },
      { d: "M20 64L64 34M100 64L64 34", tone: "accent" },
      { d: "M20 64L150 10M100 64L150 10", tone: "inkSoft", dash: "3 4" },
      { d: "M64 34h.1", wide: 10, tone: "accent" },
      { d: "M150 10h.1", wide: 8, tone: "inkSoft" },
    ],
    words: [
      [74, 34, "near: it shifts much"],
      [160, 16, "far: hardly"],
    ],
  },
  {
    rules: ["feed.card-small"],
    strokes: [
      { d: box(8, 24, 200, 22), wide: 1.5 },
      { d: box(8, 24, 150, 22), tone: "accent", fill: true },
      { d: "M188 16v38", tone: "fail", wide: 2 },
    ],
    words: [
      [60, 66, "written"],
      [166, 14, "a tenth free"],
    ],
  },
  {
    rules: ["feed.battery-short", "feed.mover-battery"],
    strokes: [
      { d: "M8 12L212 58", wide: 2.5, tone: "accent" },
      { d: "M8 50h216", tone: "fail", dash: "6 4" },
    ],
    words: [
      [96, 26, "what is left"],
      [8, 66, "the margin that cold may take"],
    ],
  },
  {
    rules: ["light.angle"],
    strokes: [
      { d: "M54 38m-28 0a28 28 0 1 0 56 0a28 28 0 1 0-56 0", wide: 1.5 },
      { d: "M54 38V10A28 28 0 0 1 54 66Z", tone: "accent", fill: true },
    ],
    words: [
      [96, 34, "180°: open for half"],
      [96, 52, "of the interval"],
    ],
  },
  {
    rules: ["time.longer-than-dark", "time.over-the-night"],
    strokes: [
      { d: box(60, 14, 110, 20), tone: "ink", fill: true },
      { d: box(40, 44, 170, 10), tone: "accent", fill: true },
      { d: "M60 10v52M170 10v52", tone: "fail", dash: "4 3" },
    ],
    words: [
      [8, 28, "dark"],
      [8, 72, "the shot reaches over both ends"],
    ],
  },
  {
    rules: ["across.alike", "across.size-jump"],
    strokes: [
      { d: "M120 12h.1", wide: 12, tone: "accent" },
      { d: "M120 16L84 62M120 16L156 62", wide: 2 },
      { d: "M96 46a34 34 0 0 0 48 0", tone: "hold", wide: 2 },
    ],
    words: [
      [104, 72, "30° and more"],
      [140, 16, "one thing"],
    ],
  },
  {
    rules: ["across.direction"],
    strokes: [
      { d: box(10, 14, 96, 44), wide: 1.5 },
      { d: box(130, 14, 96, 44), wide: 1.5 },
      { d: "M24 36h62l-10-8m10 8l-10 8", tone: "accent", wide: 2.5 },
      { d: "M214 36h-62l10-8m-10 8l10 8", tone: "fail", wide: 2.5 },
    ],
    words: [[70, 72, "it turns round at the cut"]],
  },
];

/** The picture of a rule, where one helps. */
export function Picture({ ids }: { ids: string[] }) {
  const drawn = DRAWN.find((one) => one.rules.some((rule) => ids.includes(rule)));
  if (!drawn) return null;
  return (
    <chakra.svg
      viewBox="0 0 240 76"
      width="240px"
      maxW="100%"
      flexShrink={0}
      aria-hidden
      data-testid="picture"
    >
      {drawn.strokes.map(({ d, tone = "ink", wide = 1.5, dash, fill }) => (
        <path
          key={d}
          d={d}
          fill={fill ? colour(tone) : "none"}
          stroke={fill ? "none" : colour(tone)}
          strokeWidth={wide}
          strokeDasharray={dash}
          strokeLinecap={dash ? "butt" : "round"}
        />
      ))}
      {drawn.words.map(([x, y, text]) => (
        <text key={text} x={x} y={y} style={{ fontSize: "11.5px", fill: colour("inkSoft") }}>
          {text}
        </text>
      ))}
    </chakra.svg>
  );
}
