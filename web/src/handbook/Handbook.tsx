import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, told } from "../api/client";
import { Typing } from "../app/Field";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Picture } from "./pictures";

const STEPS: Record<string, string> = {
  time: "Time",
  light: "Light",
  move: "Move",
  feed: "Feed",
  sequence: "Across the cuts of a sequence",
};

/** Every rule by which shots are judged, in its own words, with where it is from; searched as one types. */
export default function Handbook() {
  const [params] = useSearchParams();
  const [sought, setSought] = useState(params.get("rule") ?? "");
  const book = useQuery({
    queryKey: ["handbook"],
    queryFn: () => told(api.GET("/api/handbook")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!book.data) return <Waiting>{book.error?.message}</Waiting>;
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const rules = book.data.rules.filter((one) =>
    holds(`${one.ids.join(" ")} ${one.said} ${one.source} ${STEPS[one.step]}`),
  );
  const asked = book.data.calculators.filter((one) => holds(`${one.name} ${one.said}`));
  return (
    <Shell
      title={<b>Handbook</b>}
      tab="Handbook"
      sub="every rule by which a shot is judged, and where it is from"
    >
      <Typing
        aria-label="Search the handbook"
        placeholder="Search: flicker, moon, card …"
        maxW="420px"
        mb="4"
        value={sought}
        onType={setSought}
      />
      {Object.entries(STEPS).map(([step, name]) => {
        const here = rules.filter((one) => one.step === step);
        return here.length === 0 ? null : (
          <Panel key={step} title={name} mb="4">
            {here.map((one) => (
              <Flex
                key={one.ids[0]}
                direction={{ base: "column", md: "row" }}
                gap="4"
                justify="space-between"
                py="2"
                borderBottom="1px solid"
                borderColor="line"
                data-rule={one.ids[0]}
              >
                <Box>
                  <chakra.p whiteSpace="pre-line">{one.said}</chakra.p>
                  <chakra.p fontSize="13px" color="inkSoft">
                    {one.source} · <span className="figure">{one.ids.join(", ")}</span>
                  </chakra.p>
                </Box>
                <Picture ids={one.ids} />
              </Flex>
            ))}
          </Panel>
        );
      })}
      {asked.length > 0 && (
        <Panel title="Calculators, by `revani calc`">
          {asked.map((one) => (
            <Box key={one.name} py="1.5" borderBottom="1px solid" borderColor="line">
              <chakra.span className="figure" fontWeight="700" mr="3">
                {one.name}
              </chakra.span>
              {one.said}
            </Box>
          ))}
        </Panel>
      )}
      {rules.length + asked.length === 0 && <Box color="inkSoft">Nothing in the handbook says that.</Box>}
    </Shell>
  );
}
