import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, type PointerEvent, useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { Tick } from "./parts";

type LookedAt = Schemas["LookedAt"];
type Aid = "lines" | "zebra" | "loupe" | "light";

const AIDS: [Aid, string][] = [
  ["lines", "Grid and horizon"],
  ["zebra", "Stripes on white"],
  ["loupe", "Loupe 1:1"],
  ["light", "Light"],
];
const NO_AIDS: Aid[] = [];
/** As large as the server cuts a piece for the loupe. */
const LOUPE = { width: 320, height: 220 };
/** The loupe follows once the pointer rests for so long. */
const RESTS_MS = 90;
/** An arrow key carries the loupe so far, in parts of the picture. */
const STEP = 0.02;

/**
 * A picture with what it is looked at by: thirds and the level horizon, stripes on what is white, a loupe, how its
 * light is spread. `base` is where the server has these of it, `look` asks for what is told, `id` tells pictures apart.
 */
export function Looking(props: {
  base: string;
  id: readonly unknown[];
  look: (signal: AbortSignal) => Promise<LookedAt>;
  atFirst?: Aid[];
  children: React.ReactNode;
}) {
  const { base, id, look, atFirst = NO_AIDS, children } = props;
  const [aids, setAids] = useState(atFirst);
  const on = (aid: Aid) => aids.includes(aid);
  const looked = useQuery({
    queryKey: ["looked", ...id],
    queryFn: ({ signal }) => look(signal),
    enabled: on("lines") || on("light"),
    placeholderData: (last) => last,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const stamp = encodeURIComponent(id.join(" "));
  return (
    <Box data-testid="looking">
      <Box position="relative">
        {children}
        {on("zebra") && (
          <chakra.img
            className="picture"
            src={`${base}/zebra?of=${stamp}`}
            alt="Stripes over what is white"
            position="absolute"
            inset="0"
            width="100%"
            height="100%"
            pointerEvents="none"
            css={{ imageRendering: "pixelated" }}
            data-testid="zebra"
          />
        )}
        {on("lines") && <Lines horizon={looked.data?.horizon ?? []} />}
        {on("loupe") && (
          <Loupe src={(across, down) => `${base}/loupe?across=${across}&down=${down}&of=${stamp}`} />
        )}
      </Box>
      <Flex columnGap="4" mt="1" wrap="wrap">
        {AIDS.map(([aid, name]) => (
          <Tick
            key={aid}
            of={aid}
            checked={on(aid)}
            onTick={(wanted) => setAids(wanted ? [...aids, aid] : aids.filter((one) => one !== aid))}
          >
            {name}
          </Tick>
        ))}
      </Flex>
      {on("light") && looked.data && <Spread told={looked.data} />}
    </Box>
  );
}

/** A piece of the picture in its own pixels, where one points; arrow keys carry it. */
function Loupe({ src }: { src: (across: string, down: string) => string }) {
  const [at, setAt] = useState({ across: 0.5, down: 0.5 });
  const [held, setHeld] = useState(at);
  useEffect(() => {
    const timer = window.setTimeout(() => setHeld(at), RESTS_MS);
    return () => window.clearTimeout(timer);
  }, [at]);
  const point = (event: PointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    setAt({
      across: within((event.clientX - box.left) / box.width),
      down: within((event.clientY - box.top) / box.height),
    });
  };
  const carry = (event: KeyboardEvent) => {
    const step = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[
      event.key
    ];
    if (!step) return;
    event.preventDefault();
    setAt((now) => ({
      across: within(now.across + (step[0] ?? 0)),
      down: within(now.down + (step[1] ?? 0)),
    }));
  };
  return (
    <Box
      position="absolute"
      inset="0"
      cursor="crosshair"
      overflow="hidden"
      css={{ touchAction: "none" }}
      tabIndex={0}
      role="application"
      aria-label="Loupe over the picture; arrow keys carry it"
      data-testid="loupe"
      onPointerDown={point}
      onPointerMove={point}
      onKeyDown={carry}
    >
      <chakra.img
        className="picture"
        src={src(held.across.toFixed(3), held.down.toFixed(3))}
        alt="What lies under the loupe, pixel by pixel"
        position="absolute"
        maxW="none"
        border="2px solid"
        borderColor="ink"
        borderRadius="4px"
        bg="lane"
        pointerEvents="none"
        style={{
          // On a phone it leaves enough of the picture to be pointed at.
          width: `min(${LOUPE.width}px, 60%)`,
          height: `min(${LOUPE.height}px, 60%)`,
          objectFit: "none",
          left: `${held.across * 100}%`,
          top: `${held.down * 100}%`,
          transform: `translate(${-held.across * 100}%, ${-held.down * 100}%)`,
        }}
      />
    </Box>
  );
}

const within = (part: number) => Math.min(1, Math.max(0, part));

/** Thirds of the picture, and the level horizon where it lies in this frame. */
function Lines({ horizon }: { horizon: number[][] }) {
  const thirds = [1 / 3, 2 / 3];
  return (
    <chakra.svg
      className="picture"
      position="absolute"
      inset="0"
      width="100%"
      height="100%"
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
      pointerEvents="none"
      data-testid="lines"
    >
      <title>Thirds, and the level horizon</title>
      <g stroke="#FFF8E7" strokeOpacity="0.55" fill="none" vectorEffect="non-scaling-stroke">
        {thirds.map((at) => (
          <path key={at} d={`M${at} 0V1M0 ${at}H1`} vectorEffect="non-scaling-stroke" />
        ))}
      </g>
      {horizon.length > 1 && (
        <polyline
          points={horizon.map((point) => point.join(",")).join(" ")}
          fill="none"
          stroke="#F0A04B"
          strokeWidth="2"
          strokeDasharray="6 4"
          vectorEffect="non-scaling-stroke"
        />
      )}
    </chakra.svg>
  );
}

/** How the light of a frame is spread, black at the left; taller than an eighth is cut off. */
function Spread({ told }: { told: LookedAt }) {
  const most = Math.max(0.02, Math.min(0.12, Math.max(...told.shares)));
  const bar = 1 / told.shares.length;
  return (
    <Box mt="1" data-testid="spread">
      <chakra.svg
        width="100%"
        height="64px"
        viewBox="0 0 1 1"
        preserveAspectRatio="none"
        bg="lane"
        color="ink"
      >
        <title>How the light is spread, from black to white</title>
        {told.shares.map((share, i) => {
          const high = Math.min(share / most, 1);
          const at = i * bar;
          return <rect key={at} x={at} width={bar} y={1 - high} height={high} fill="currentColor" />;
        })}
      </chakra.svg>
      <Flex justify="space-between" fontSize="13px" color="inkSoft" className="figure">
        <span>black {percent(told.black)}</span>
        <span>white {percent(told.white)}</span>
      </Flex>
    </Box>
  );
}

const percent = (part: number) => `${(100 * part).toFixed(1)} %`;
