import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Schemas } from "../api/client";
import { Panel, Quiet } from "../app/parts";
import { colour } from "../draw/layer";

type Night = Schemas["NightAhead"];

const BAR = 18;
const STEP = 22;
const HIGH = 110;

/** The nights ahead: how long each is dark, how much of that serves, its moon; one is chosen by its bar. */
export function Nights(props: {
  rows: Night[];
  chosen: string;
  onChoose: (date: string) => void;
  calendar: () => void;
}) {
  const { rows, chosen, onChoose, calendar } = props;
  const most = Math.max(1, ...rows.map((row) => Math.max(row.dark_s, row.serves_s)));
  const high = (seconds: number) => (seconds / most) * HIGH;
  const best = [...rows].sort((a, b) => a.rank - b.rank).slice(0, 3);
  const now = rows.find((row) => row.date === chosen);
  return (
    <Panel title="Which night">
      <chakra.p fontSize="13px" color="inkSoft" mb="2">
        Hours dark, and of them those that serve. The marked one is yours.
      </chakra.p>
      <Box overflowX="auto" pb="1">
        <svg
          width={rows.length * STEP + 4}
          height={HIGH + 44}
          role="img"
          aria-label="Nights ahead"
          data-testid="nights"
        >
          {rows.map((row, i) => {
            const x = 2 + i * STEP;
            const mine = row.date === chosen;
            return (
              // biome-ignore lint/a11y/useSemanticElements: a bar of a drawing
              <g
                key={row.date}
                role="button"
                tabIndex={0}
                aria-pressed={mine}
                aria-label={`${row.date}, rank ${row.rank}: ${row.reason}`}
                data-night={row.date}
                style={{ cursor: "pointer" }}
                onClick={() => onChoose(row.date)}
                onKeyDown={(event) => {
                  if (event.key === "Enter" || event.key === " ") onChoose(row.date);
                }}
              >
                <title>{`${row.date}, rank ${row.rank}: ${row.reason}`}</title>
                <rect x={x} y={0} width={BAR} height={HIGH + 44} fill="transparent" />
                <rect
                  x={x}
                  y={HIGH - high(row.dark_s)}
                  width={BAR}
                  height={high(row.dark_s)}
                  fill={colour("line")}
                />
                <rect
                  x={x}
                  y={HIGH - high(row.serves_s)}
                  width={BAR}
                  height={high(row.serves_s)}
                  fill={colour(mine ? "accent" : "ink")}
                />
                {mine && <rect x={x - 1.5} y={HIGH + 2} width={BAR + 3} height={3} fill={colour("accent")} />}
                <Moon x={x + BAR / 2} y={HIGH + 15} lit={row.moon_fraction} />
                <text
                  x={x + BAR / 2}
                  y={HIGH + 38}
                  textAnchor="middle"
                  className="figure"
                  style={{ fontSize: "11px", fill: colour(mine ? "ink" : "inkSoft") }}
                >
                  {Number(row.date.slice(8))}
                </text>
              </g>
            );
          })}
        </svg>
      </Box>
      {now && (
        <chakra.p fontSize="14px" mt="2" data-testid="night-told">
          <b>{spoken(now.date)}</b>, {now.rank}. of {rows.length}: {now.reason}.
        </chakra.p>
      )}
      <Flex gap="2" mt="3" wrap="wrap" align="center">
        {best.map((row) => (
          <chakra.button
            key={row.date}
            type="button"
            border="1.5px solid"
            borderColor={row.date === chosen ? "accent" : "line"}
            borderRadius="6px"
            px="3"
            minH="9"
            cursor="pointer"
            aria-pressed={row.date === chosen}
            onClick={() => onChoose(row.date)}
          >
            {row.rank}. {spoken(row.date)}
          </chakra.button>
        ))}
        <Quiet fontSize="14px" minH="9" ml="auto" onClick={calendar}>
          As a calendar
        </Quiet>
      </Flex>
    </Panel>
  );
}

/** A moon as much of it as is lit; a ring where it is new. */
function Moon({ x, y, lit }: { x: number; y: number; lit: number }) {
  const r = 5;
  const bulge = r * Math.abs(1 - 2 * lit);
  return (
    <g>
      <circle cx={x} cy={y} r={r} fill="none" stroke={colour("inkSoft")} />
      {lit > 0.03 && (
        <path
          d={`M${x} ${y - r}A${r} ${r} 0 0 1 ${x} ${y + r}A${bulge} ${r} 0 0 ${lit > 0.5 ? 1 : 0} ${x} ${y - r}`}
          fill={colour("inkSoft")}
        />
      )}
    </g>
  );
}

const spoken = (date: string) =>
  new Date(`${date}T12:00:00`).toLocaleDateString("en-GB", {
    weekday: "short",
    day: "numeric",
    month: "short",
  });
