import { Box } from "@chakra-ui/react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Plan } from "../api/client";
import { nearest, type Span, wallScale, within } from "../draw/scale";
import { useWidth } from "../draw/useWidth";
import { CropLayer } from "./CropLayer";
import { CardLayer, EnergyLayer } from "./FeedLayers";
import { type LayerEdits, LightLayer } from "./LightLayer";
import { MoveLayer, type Rates } from "./MoveLayer";
import { SkyBand } from "./SkyBand";
import { Weave } from "./Weave";

export type DeskStep = "time" | "light" | "move" | "feed" | "after";

type Heights = Record<"sky" | "light" | "move" | "energy" | "card" | "crop" | "weave", number>;

/** Height of each layer under each step of the job: the chosen one grows. */
const HEIGHTS: Record<DeskStep, Heights> = {
  time: { sky: 58, light: 84, move: 34, energy: 38, card: 28, crop: 0, weave: 108 },
  light: { sky: 50, light: 250, move: 26, energy: 26, card: 20, crop: 0, weave: 54 },
  move: { sky: 46, light: 50, move: 250, energy: 24, card: 18, crop: 0, weave: 54 },
  after: { sky: 46, light: 46, move: 24, energy: 20, card: 16, crop: 150, weave: 90 },
  feed: { sky: 48, light: 66, move: 26, energy: 108, card: 64, crop: 0, weave: 66 },
};
const LEAST_STRIP = 44;

const GAP = 8;
const TOP = 26;
const FILM = 40;
const LABELS = 100;

interface LoomProps {
  plan: Plan;
  step: DeskStep;
  cursor: number | null;
  onCursor: (number: number | null) => void;
  edits: LayerEdits;
  rates: Rates;
}

/**
 * Two clocks and what lies between: the wall clock and its sky above, the film below, layers on the
 * wall's time between them, and the threads that gather the one into the other.
 */
export function Loom({ plan, step, cursor, onCursor, edits, rates }: LoomProps) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const { lanes } = plan;
  const limit = useMemo(() => ({ from: lanes.from_s, to: lanes.to_s }), [lanes.from_s, lanes.to_s]);
  const whole = useMemo(() => {
    const to = Math.max(lanes.end_s, lanes.waits_until_s ?? 0);
    const margin = (to - lanes.start_s) * 0.03;
    return within({ from: lanes.start_s - margin, to: to + margin }, limit);
  }, [lanes.start_s, lanes.end_s, lanes.waits_until_s, limit]);
  const [chosen, setChosen] = useState<Span | null>(null);
  const span = chosen ? within(chosen, limit) : whole;
  const scale = useMemo(
    () => wallScale({ from: span.from, to: span.to }, LABELS, Math.max(width, LABELS + 50)),
    [span.from, span.to, width],
  );
  const room = useRoom(box);
  const wanted = HEIGHTS[step];
  const strips = lanes.axes.length;
  // Seven axes need their room, whatever the window has.
  const move =
    step === "move"
      ? Math.max(wanted.move, strips * LEAST_STRIP)
      : strips
        ? Math.max(wanted.move, strips * 14)
        : 20;
  const outputs = lanes.crops.length;
  const crop = step === "after" ? Math.max(wanted.crop, outputs * LEAST_STRIP) : outputs * 16;
  const heights = stretched({ ...wanted, move, crop }, room - TOP - 4 * GAP - FILM - 30);

  const zoom = useCallback(
    (factor: number, about: number) =>
      setChosen((before) => {
        const now = before ?? whole;
        const next = { from: about - (about - now.from) * factor, to: about + (now.to - about) * factor };
        return next.to - next.from < 120 ? now : within(next, limit);
      }),
    [whole, limit],
  );
  const shift = useCallback(
    (part: number) =>
      setChosen((before) => {
        const now = before ?? whole;
        const by = (now.to - now.from) * part;
        return within({ from: now.from + by, to: now.to + by }, limit);
      }),
    [whole, limit],
  );

  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const x = event.clientX - element.getBoundingClientRect().left;
      if (event.ctrlKey || Math.abs(event.deltaY) > Math.abs(event.deltaX))
        zoom(1.0015 ** event.deltaY, scale.invert(x));
      else shift(event.deltaX / (width - LABELS));
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [zoom, shift, scale, width]);

  const frames = lanes.frames as Record<string, number[]>;
  const at = frames.at_s ?? [];
  const moveTo = (number: number) => onCursor(Math.min(Math.max(number, 1), plan.solved.frame_count));
  const index = cursor === null ? null : nearest(frames.number ?? [], cursor);
  const cursorX = index === null ? null : scale(at[index] ?? 0);

  const tops = { sky: TOP, light: 0, move: 0, energy: 0, card: 0, crop: 0, weave: 0, film: 0 };
  tops.light = tops.sky + heights.sky + GAP;
  tops.move = tops.light + heights.light + GAP;
  tops.energy = tops.move + heights.move + GAP;
  tops.card = tops.energy + heights.energy + GAP;
  tops.crop = tops.card + heights.card + (heights.crop ? GAP : 0);
  tops.weave = tops.crop + heights.crop + 2;
  tops.film = tops.weave + heights.weave;
  const height = tops.film + FILM + 26;

  return (
    <Box
      ref={box}
      minW="0"
      userSelect="none"
      role="slider"
      tabIndex={0}
      aria-label="Loom: wall clock above, film below"
      aria-valuemin={1}
      aria-valuemax={plan.solved.frame_count}
      aria-valuenow={cursor ?? 1}
      aria-valuetext={`frame ${cursor ?? 1}`}
      data-testid="loom"
      onPointerMove={(event) => {
        const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
        if (x < LABELS) return;
        if (event.buttons === 1) {
          shift(-event.movementX / (width - LABELS));
          return;
        }
        moveTo(Math.round(frames.number?.[nearest(at, scale.invert(x))] ?? 1));
      }}
      onDoubleClick={() => setChosen(null)}
      onKeyDown={(event) => {
        const step = event.shiftKey ? 10 : 1;
        if (event.key === "ArrowRight") moveTo((cursor ?? 0) + step);
        else if (event.key === "ArrowLeft") moveTo((cursor ?? 2) - step);
        else if (event.key === "Home") moveTo(1);
        else if (event.key === "End") moveTo(plan.solved.frame_count);
        else if (event.key === "+") zoom(0.8, at[index ?? 0] ?? span.from);
        else if (event.key === "-") zoom(1.25, at[index ?? 0] ?? span.from);
        else if (event.key === "PageDown") shift(0.25);
        else if (event.key === "PageUp") shift(-0.25);
        else if (event.key === "0") setChosen(null);
        else return;
        event.preventDefault();
      }}
    >
      {width > LABELS + 60 && (
        <svg
          width={width}
          height={height}
          role="presentation"
          style={{ display: "block", overflow: "hidden" }}
        >
          <defs>
            <clipPath id="loom-lanes">
              <rect x={LABELS} y={0} width={width - LABELS} height={height} />
            </clipPath>
          </defs>
          <SkyBand
            lanes={lanes}
            scale={scale}
            top={tops.sky}
            height={heights.sky}
            left={LABELS}
            right={width}
          />
          <LightLayer
            edits={edits}
            lanes={lanes}
            scale={scale}
            top={tops.light}
            height={heights.light}
            left={LABELS}
            right={width}
          />
          <MoveLayer
            edits={edits}
            rates={rates}
            tall={step === "move"}
            lanes={lanes}
            scale={scale}
            top={tops.move}
            height={heights.move}
            left={LABELS}
            right={width}
          />
          <EnergyLayer
            lanes={lanes}
            scale={scale}
            top={tops.energy}
            height={heights.energy}
            left={LABELS}
            right={width}
          />
          <CardLayer
            lanes={lanes}
            scale={scale}
            top={tops.card}
            height={heights.card}
            left={LABELS}
            right={width}
          />
          {heights.crop > 0 && (
            <CropLayer
              edits={edits}
              tall={step === "after"}
              lanes={lanes}
              scale={scale}
              top={tops.crop}
              height={heights.crop}
              left={LABELS}
              right={width}
            />
          )}
          <Weave
            plan={plan}
            scale={scale}
            top={tops.weave}
            height={heights.weave}
            film={FILM}
            left={LABELS}
            right={width}
            cursor={index === null ? null : { at: at[index] ?? 0, film: frames.film_s?.[index] ?? 0 }}
          />
          {cursorX !== null && cursorX >= LABELS && cursorX <= width && (
            <g data-testid="plumb" pointerEvents="none">
              <line
                x1={cursorX}
                x2={cursorX}
                y1={TOP - 6}
                y2={tops.weave}
                stroke="var(--chakra-colors-accent)"
                strokeWidth={1.5}
              />
              <path d={`M${cursorX - 6} ${TOP - 15}h12l-6 10z`} fill="var(--chakra-colors-accent)" />
            </g>
          )}
        </svg>
      )}
    </Box>
  );
}

/** Layers as tall as the window has room for, but never squeezed. */
function stretched(heights: Heights, room: number): Heights {
  const sum = Object.values(heights).reduce((total, one) => total + one, 0);
  const factor = Math.min(Math.max(room / sum, 1), 2.2);
  const parts = Object.entries(heights).map(([name, one]) => [name, Math.round(one * factor)]);
  return Object.fromEntries(parts) as Heights;
}

/** Pixels from the top of the loom down to the read-out at the foot of the window. */
function useRoom(box: React.RefObject<HTMLDivElement | null>): number {
  const [room, setRoom] = useState(0);
  useEffect(() => {
    const measure = () => {
      const scrolled = box.current?.closest("[data-testid=desk]")?.scrollTop ?? 0;
      const top = (box.current?.getBoundingClientRect().top ?? 0) + window.scrollY + scrolled;
      setRoom(window.innerHeight - top - 58);
    };
    measure();
    window.addEventListener("resize", measure);
    return () => window.removeEventListener("resize", measure);
  }, [box]);
  return room;
}
