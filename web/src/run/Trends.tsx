import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Schemas } from "../api/client";

type Trend = NonNullable<Schemas["RunView"]["trends"]>[number];

const WIDE = 600;
const HIGH = 90;

/** How a thing runs out: planned (thin) and measured (bold) on one axis, and to what end it comes at this rate. */
export function Trends({ trends }: { trends: Trend[] }) {
  return trends.map((trend) => (
    <Box key={trend.label} data-testid={`trend-${trend.label}`}>
      <Flex gap="3" align="baseline" color="inkSoft" wrap="wrap">
        <chakra.b color="ink">{trend.label}</chakra.b>
        <span>planned thin, measured bold</span>
        {trend.told && (
          <chakra.span color={trend.tone === "good" ? "ink" : "accentText"}>{trend.told}</chakra.span>
        )}
      </Flex>
      <svg
        viewBox={`0 -2 ${WIDE} ${HIGH + 4}`}
        width="100%"
        height={HIGH}
        preserveAspectRatio="none"
        role="img"
        aria-label={`${trend.label}: planned and measured over the shot. ${trend.told}`}
      >
        <line x1="0" x2={WIDE} y1={HIGH} y2={HIGH} stroke="var(--chakra-colors-line)" />
        <polyline
          points={line(trend.planned)}
          fill="none"
          stroke="var(--chakra-colors-ink-soft)"
          strokeWidth="1.5"
          strokeDasharray="5 4"
          vectorEffect="non-scaling-stroke"
        />
        <polyline
          points={line(trend.measured)}
          fill="none"
          stroke="var(--chakra-colors-ink)"
          strokeWidth="3.5"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </Box>
  ));
}

const line = ({ passed, left }: Trend["planned"]) =>
  passed.map((x, n) => `${(x * WIDE).toFixed(1)},${((1 - (left[n] ?? 0)) * HIGH).toFixed(1)}`).join(" ");
