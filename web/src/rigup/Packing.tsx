import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, type Schemas, told } from "../api/client";
import { Action, Leads, Panel, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

const DOING = ["Charge", "Empty", "Bring", "Plug"] as const;
const SAID: Record<(typeof DOING)[number], string> = {
  Charge: "Charge, in this order",
  Empty: "Empty",
  Bring: "Bring",
  Plug: "Which cable goes where",
};

/** What the shots of the next day, or those of a sequence, want together; it prints. */
export default function Packing() {
  const [params] = useSearchParams();
  const place = params.get("place") ?? undefined;
  const sequence = params.get("sequence") ?? undefined;
  const packed = useQuery({
    queryKey: ["packing", place, sequence],
    queryFn: () => told(api.GET("/api/packing", { params: { query: { place, sequence } } })),
  });
  if (!packed.data) return <Waiting>{packed.error?.message}</Waiting>;
  const { rows, troubles, weight } = packed.data;
  return (
    <Shell
      title={<b>What to bring</b>}
      tab="What to bring"
      sub={sequence ? "for the shots of a sequence" : "for the shots of the next 24 hours"}
    >
      {troubles.map((one) => (
        <Flex key={one.sentence + one.figures} gap="2" align="baseline" mb="2">
          <StateMark severity={one.severe ? "stop" : "mind"} />
          <Box>
            <b>{one.sentence}.</b> {one.figures} <Leads to={`/shots/${one.shot_id}`}>{one.shot}</Leads>
          </Box>
        </Flex>
      ))}
      {rows.length === 0 && (
        <Box color="inkSoft">
          No shot is planned for these hours, so there is nothing to bring.{" "}
          <Leads to="/begin">Begin one</Leads>
        </Box>
      )}
      {DOING.map((what) => (
        <Rows key={what} title={SAID[what]} rows={rows.filter((row) => row.what === what)} />
      ))}
      {rows.length > 0 && (
        <Flex gap="4" align="center" mt="3">
          <Box className="figure">{weight}</Box>
          <Action onClick={() => window.print()}>Print</Action>
        </Flex>
      )}
    </Shell>
  );
}

function Rows({ title, rows }: { title: string; rows: Schemas["Packed"][] }) {
  if (rows.length === 0) return null;
  return (
    <Panel title={title} mb="4" data-packing={title}>
      {rows.map((row) => (
        <chakra.label
          key={row.thing}
          display="flex"
          gap="3"
          py="1.5"
          minH={{ base: "11", md: "8" }}
          borderBottom="1px solid"
          borderColor="line"
        >
          <chakra.input type="checkbox" width="18px" height="18px" mt="1" aria-label={row.thing} />
          <Box flex="1">
            <chakra.span fontWeight="600">{row.thing}</chakra.span>
            {row.mind && <chakra.span color="inkSoft"> {row.mind}</chakra.span>}
          </Box>
          <Box color="inkSoft" fontSize="13px" textAlign="right" display={{ base: "none", md: "block" }}>
            {row.shots.join(", ")}
          </Box>
        </chakra.label>
      ))}
    </Panel>
  );
}
