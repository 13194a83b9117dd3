import { Box, chakra, Flex } from "@chakra-ui/react";
import { api, type Plan, type Schemas, told } from "../../api/client";
import { Choice } from "../../app/Field";
import { Panel } from "../../app/parts";
import { useOnceQuiet } from "../asking";
import { Cell, Head } from "../cells";
import { Value } from "../Sentence";
import type { DeskState } from "../useDesk";
import { RowAction } from "../WordTable";

type Row = Schemas["FedRow"];

/** What draws energy, what feeds it and through which cable, how long it lasts; the card, and what all of it weighs. */
export function Feeding({ desk, plan }: { desk: DeskState; plan: Plan }) {
  const { answer: panel } = useOnceQuiet<Schemas["FeedPanel"]>(
    (signal) => told(api.POST("/api/programs/feed", { body: plan.shot, signal })),
    [plan],
  );
  if (!panel) return null;
  const wire = (source: string, to: string, by: string[], on = true) =>
    void desk.put((shot) => shot, [{ track: "wire", source, to, by, on }]);
  return (
    <Panel title="What feeds what" mt="4" overflowX="auto">
      <chakra.table width="100%" fontSize="14px" data-testid="feeding">
        <thead>
          <tr>
            <Head>what</Head>
            <Head>draws</Head>
            <Head>its own</Head>
            <Head>fed from</Head>
            <Head>lasts</Head>
            <Head>at worst – at best</Head>
          </tr>
        </thead>
        <tbody>
          {panel.rows.map((row) => (
            <chakra.tr
              key={row.id}
              borderTop="1px solid"
              borderColor="line"
              data-fed={row.name}
              verticalAlign="top"
            >
              <Cell fontWeight="600">{row.name}</Cell>
              <Cell className="figure">{row.draws}</Cell>
              <Cell className="figure">{row.own}</Cell>
              <Cell whiteSpace="normal">
                <Wires row={row} cables={panel.cables} onWire={wire} />
              </Cell>
              <Cell
                whiteSpace="normal"
                color={row.fails ? "fail" : undefined}
                fontWeight={row.fails ? "600" : "400"}
              >
                {row.lasts}
              </Cell>
              <Cell className="figure">{row.worst}</Cell>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      <Flex gap="5" wrap="wrap" mt="3" fontSize="14px">
        {panel.banks.map((bank) => (
          <Box key={bank}>{bank}</Box>
        ))}
        <Box data-testid="card-told">Card: {panel.card.join(" · ")}</Box>
        <Flex data-testid="carried" gap="2" color={panel.too_heavy ? "fail" : undefined}>
          {panel.carried} <Value word={{ ...panel.limit, field: panel.limit.field ?? "" }} desk={desk} />
        </Flex>
      </Flex>
    </Panel>
  );
}

function Wires(props: {
  row: Row;
  cables: Schemas["Pluggable"][];
  onWire: (source: string, to: string, by: string[], on?: boolean) => void;
}) {
  const { row, cables, onWire } = props;
  return (
    <>
      {row.fed.map((one) => (
        <Flex key={one.source} gap="2" align="center" wrap="wrap" mb="1">
          <span>
            {one.name}
            {one.by.length > 0 && ` by ${one.by.map((cable) => cable.name).join(", ")}`}
          </span>
          {one.fits === false && (
            <chakra.span color="fail" fontWeight="600">
              cannot be connected
            </chakra.span>
          )}
          {cables.length > 0 && (
            <Choice
              width="auto"
              aria-label={`Cable from ${one.name} to ${row.name}`}
              value=""
              options={[["", "through …"], ...cables.map((cable) => [cable.id, cable.name] as const)]}
              onChoose={(id) => id && onWire(one.source, row.id, [...one.by.map((cable) => cable.id), id])}
            />
          )}
          {one.by.length > 0 && (
            <RowAction
              aria-label={`Take the cable from ${one.name} off`}
              onClick={() =>
                onWire(
                  one.source,
                  row.id,
                  one.by.slice(0, -1).map((cable) => cable.id),
                )
              }
            >
              Shorter
            </RowAction>
          )}
          <RowAction
            aria-label={`Unplug ${one.name} from ${row.name}`}
            onClick={() => onWire(one.source, row.id, [], false)}
          >
            Unplug
          </RowAction>
        </Flex>
      ))}
      {row.sources.length > 0 && (
        <Choice
          width="auto"
          maxW="220px"
          aria-label={`Feed ${row.name} from`}
          value=""
          options={[
            ["", row.fed.length ? "and from …" : "from …"],
            ...row.sources.map((one) => [one.id, one.name] as const),
          ]}
          onChoose={(id) => id && onWire(id, row.id, [])}
        />
      )}
    </>
  );
}
