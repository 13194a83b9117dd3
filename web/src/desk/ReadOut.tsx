import { chakra, Flex } from "@chakra-ui/react";
import { memo, useEffect, useRef, useState } from "react";
import { api, type Plan, type Schemas, told } from "../api/client";
import { QUIET_MS, useLatest } from "./asking";

/** The bar at the foot: the frame under the plumb line, exactly. */
export function ReadOut({ plan, number }: { plan: Plan; number: number }) {
  const [answer, setAnswer] = useState<Schemas["FrameAnswer"] | null>(null);
  const latest = useLatest();
  const wanted = Math.min(number, plan.solved.frame_count);
  const read = useRef(0);
  useEffect(() => {
    // Another frame is read at once; another plan when it has stood still for a moment.
    const wait = read.current === wanted ? QUIET_MS : 0;
    read.current = wanted;
    const timer = window.setTimeout(() => {
      void latest((signal) =>
        told(api.POST("/api/programs/frame", { body: { shot: plan.shot, number: wanted }, signal })),
      )
        .then((row) => row && setAnswer(row))
        .catch(() => setAnswer(null));
    }, wait);
    return () => window.clearTimeout(timer);
  }, [plan, wanted, latest]);
  return <Readings readings={answer?.readings ?? NONE} />;
}

type Rows = Schemas["FrameAnswer"]["readings"];

const NONE: Rows = [];

// Fifteen pairs of words: drawn anew when they are others, not with every plan of a drag.
const Readings = memo(function Readings({ readings }: { readings: Rows }) {
  return (
    <Flex
      as="footer"
      aria-label="The frame under the plumb line"
      data-testid="readout"
      flexShrink={0}
      bg="foot"
      px="6"
      py="2.5"
      gapX="6"
      gapY="1"
      wrap="wrap"
      minH="44px"
      align="baseline"
    >
      {readings.map((reading) => (
        <span key={reading.label}>
          <chakra.span color="inkSoft" fontSize="14px" mr="1.5">
            {reading.label}
          </chakra.span>
          <chakra.span className="figure" fontWeight="700" color={reading.tone === "bad" ? "fail" : "ink"}>
            {reading.text}
          </chakra.span>
        </span>
      ))}
    </Flex>
  );
});
