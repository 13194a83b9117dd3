import { Box, chakra, Flex } from "@chakra-ui/react";
import { api, type Plan, type Schemas, type Shot, told } from "../../api/client";
import { Action, Choosing, Panel } from "../../app/parts";
import { useOnceQuiet } from "../asking";
import { Beside } from "../beside";
import { Cell, Head } from "../cells";
import { FramedView } from "../move/FramedView";
import { DayOfLight } from "./DayOfLight";

type Panel_ = Schemas["LightPanel"];
type School = Schemas["SchoolOutcome"];

/** What belongs to the light and has no place on the loom: schools side by side, the picture, stars, filters. */
export function LightPanel(props: { plan: Plan; number: number; onTake: (shot: Shot) => void }) {
  const { plan, number, onTake } = props;
  const wanted = Math.min(number, plan.solved.frame_count);
  const { answer: panel } = useOnceQuiet<Panel_>(
    (signal) => told(api.POST("/api/programs/light", { body: { shot: plan.shot, number: wanted }, signal })),
    [plan, wanted],
  );
  if (!panel) return null;
  return (
    <Box data-testid="light-panel">
      <DayOfLight lanes={plan.lanes} />
      <Schools schools={panel.schools} onTake={onTake} />
      <Flex gap="4" mt="4" direction={{ base: "column", xl: "row" }} align="flex-start">
        <Panel title="In the picture" flex="1" minW="0" width="100%">
          <FramedView view={panel.view} />
        </Panel>
        <Panel title="Stars" flex="1" minW="0" width="100%">
          {panel.stars.map((line) => (
            <chakra.p key={line} fontSize="14px" mb="1.5">
              {line}
            </chakra.p>
          ))}
          <Ways ways={panel.ways} />
        </Panel>
      </Flex>
      <Panel title="Calibration and filters" mt="4">
        <chakra.p fontSize="14px" data-testid="reading">
          {panel.reading}
        </chakra.p>
        {panel.filters.map((row) => (
          <Flex key={row.name} gap="3" align="center" mt="2" wrap="wrap" fontSize="14px">
            <b>{row.name}</b>
            <chakra.span className="figure">{row.stops}</chakra.span>
            <span>{row.told}</span>
            <Action ml="auto" aria-label={`Begin with it: ${row.name}`} onClick={() => onTake(row.shot)}>
              Begin with it
            </Action>
          </Flex>
        ))}
      </Panel>
    </Box>
  );
}

function Schools({ schools, onTake }: { schools: School[]; onTake: (shot: Shot) => void }) {
  const most = Math.max(0.5, ...schools.flatMap((one) => (one.error_stops ?? []).map(Math.abs)));
  return (
    <Panel title="Ways of exposing, over the same light" overflowX="auto">
      <chakra.table width="100%" fontSize="14px" data-testid="schools">
        <thead>
          <tr>
            <Head>way</Head>
            <Head>error, ±{most.toFixed(1)} stops</Head>
            <Head>worst</Head>
            <Head>flicker, smoothed</Head>
            <Head>clipped</Head>
            <Head>ISO</Head>
            <Head>longest</Head>
            <Head>gathered</Head>
            <Head>dark gap</Head>
            <Head />
          </tr>
        </thead>
        <tbody>
          {schools.map((one) => (
            <chakra.tr key={one.school} borderTop="1px solid" borderColor="line" data-school={one.school}>
              <Cell fontWeight={one.chosen ? "700" : "400"}>{one.name}</Cell>
              {one.refused ? (
                <Cell colSpan={8} whiteSpace="normal" color="fail">
                  {one.refused}
                </Cell>
              ) : (
                <>
                  <Cell>
                    <Curve values={one.error_stops ?? []} most={most} />
                  </Cell>
                  <Cell className="figure">{one.worst}</Cell>
                  <Cell className="figure" title={one.visible}>
                    {one.flicker}, {one.smoothed}
                    {one.visible && (
                      <chakra.span display="block" fontSize="12px" color="fail" fontFamily="body">
                        {one.visible}
                      </chakra.span>
                    )}
                  </Cell>
                  <Cell className="figure">{one.clipped}</Cell>
                  <Cell className="figure">{one.iso_reached}</Cell>
                  <Cell className="figure">{one.longest_shutter}</Cell>
                  <Cell className="figure">{one.gathered}</Cell>
                  <Cell className="figure">{one.dark_gap}</Cell>
                </>
              )}
              <Cell textAlign="right">
                <Choosing
                  name={one.name}
                  chosen={one.chosen}
                  disabled={Boolean(one.refused)}
                  onChoose={() => onTake(one.shot)}
                >
                  <Beside said={one.name} what={{ other: one.shot, name: one.name }} />
                </Choosing>
              </Cell>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </Panel>
  );
}

const CURVE = 120;

/** The error of a school over the shot, its zero line in the middle. */
function Curve({ values, most }: { values: number[]; most: number }) {
  const points = values.map(
    (value, i) => `${(i / Math.max(values.length - 1, 1)) * CURVE},${17 - (value / most) * 15}`,
  );
  return (
    <svg width={CURVE} height="34" role="presentation">
      <rect width={CURVE} height="34" fill="var(--chakra-colors-lane)" />
      <line x1="0" x2={CURVE} y1="17" y2="17" stroke="var(--chakra-colors-line)" />
      <polyline
        points={points.join(" ")}
        fill="none"
        stroke="var(--chakra-colors-accent)"
        strokeWidth="1.4"
      />
    </svg>
  );
}

function Ways({ ways }: { ways: Panel_["ways"] }) {
  return (
    <chakra.table fontSize="14px" mt="3" width="100%">
      <thead>
        <tr>
          <Head>darkest frame</Head>
          <Head>ISO</Head>
          <Head>shutter</Head>
          <Head>sky light</Head>
          <Head>star light</Head>
          <Head>trail</Head>
          <Head>gap</Head>
          <Head>error</Head>
        </tr>
      </thead>
      <tbody>
        {ways.map((way) => (
          <chakra.tr key={way.name} borderTop="1px solid" borderColor="line">
            <Cell whiteSpace="normal">{way.name}</Cell>
            {[way.iso, way.shutter, way.sky, way.stars, way.trail, way.gap, way.error].map((text, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the columns stand still
              <Cell key={i} className="figure">
                {text}
              </Cell>
            ))}
          </chakra.tr>
        ))}
      </tbody>
    </chakra.table>
  );
}
