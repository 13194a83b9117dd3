import { chakra } from "@chakra-ui/react";
import type { Plan } from "../../api/client";
import { Panel } from "../../app/parts";
import { colour } from "../../draw/layer";

const WIDTH = 900;
const HEIGHT = 40;

/** The hours about the shot in which the light is enough for the rate of the film; the shot stands where it stands. */
export function DayOfLight({ lanes }: { lanes: Plan["lanes"] }) {
  if (!lanes.light_enough_told) return null;
  const x = (at: number) => ((at - lanes.from_s) / (lanes.to_s - lanes.from_s)) * WIDTH;
  const { at_s: at, colour: shades } = lanes.sky;
  return (
    <Panel title="Hours of light" mb="4">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width="100%" role="img" aria-label={lanes.light_enough_told}>
        {at.slice(0, -1).map((from, i) => (
          <rect
            key={from}
            className="sky"
            x={x(from)}
            width={x(at[i + 1] ?? from) - x(from) + 1}
            height={26}
            fill={shades[i]}
          />
        ))}
        {lanes.light_enough.map((one) => (
          <rect
            key={one.from_s}
            x={x(one.from_s)}
            width={Math.max(x(one.to_s) - x(one.from_s), 1)}
            y={29}
            height={7}
            fill={colour("hold")}
          />
        ))}
        <rect
          x={x(lanes.start_s) - 1.5}
          width={Math.max(x(lanes.end_s) - x(lanes.start_s), 3)}
          height={HEIGHT}
          fill={colour("accent")}
        />
      </svg>
      <chakra.p fontSize="14px" mt="1">
        {lanes.light_enough_told}
      </chakra.p>
    </Panel>
  );
}
