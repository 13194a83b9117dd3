import { chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

const KINDS = [
  ["body", "Bodies"],
  ["lens", "Lenses"],
  ["card", "Cards"],
] as const;

/** The gear that is owned. */
export default function Kit() {
  const gear = useQuery({ queryKey: ["gear"], queryFn: () => told(api.GET("/api/gear")) });
  if (!gear.data) return <Waiting>{gear.error?.message}</Waiting>;
  return (
    <Shell title={<b>Kit</b>}>
      {KINDS.map(([kind, name]) => (
        <Panel key={kind} title={name} mb="4">
          {gear.data
            .filter((one) => one.document.kind === kind)
            .map((one) => (
              <Flex key={one.id} py="2" gap="4" align="baseline">
                <b>{one.document.name}</b>
                <chakra.span color="inkSoft">{one.document.note}</chakra.span>
              </Flex>
            ))}
        </Panel>
      ))}
    </Shell>
  );
}
