import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Panel, Said, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Drills } from "./Drills";
import { Outlets } from "./Outlets";
import { Sensors } from "./Sensors";
import { TryGear } from "./TryGear";

const LOOK_MS = 2_000;

/** What is linked to this machine and what it says just now, and where alarms go out to. */
export default function Rigs() {
  const rigs = useQuery({
    queryKey: ["rigs"],
    queryFn: () => told(api.GET("/api/rigs")),
    refetchInterval: LOOK_MS,
  });
  return (
    <Shell title={<b>Rigs</b>} tab="Rigs">
      <Grid templateColumns={{ base: "1fr", lg: "1fr 1fr" }} gap="5" alignItems="start">
        <Flex direction="column" gap="5">
          <Panel title="What is linked, and what it says">
            {rigs.error && <Said>{rigs.error.message}</Said>}
            {!rigs.data && !rigs.error && <Waiting />}
            {rigs.data?.length === 0 && (
              <chakra.p color="inkSoft">
                No runner has given a sign yet: start it on the machine at the rig.
              </chakra.p>
            )}
            {rigs.data?.map((rig) => (
              <Box key={rig.name} py="2" data-rig={rig.name}>
                <chakra.h3 fontSize="18px" fontWeight="700" display="flex" gap="2" alignItems="center">
                  <StateMark
                    severity={rig.tone === "good" ? "good" : rig.tone === "mind" ? "mind" : "stop"}
                  />{" "}
                  {rig.name}
                </chakra.h3>
                <Box>{rig.told}</Box>
                <Grid as="dl" templateColumns="150px 1fr" columnGap="4" rowGap="1" mt="2">
                  {rig.says.map((one) => (
                    <Box key={one.label} display="contents">
                      <chakra.dt color="inkSoft">{one.label}</chakra.dt>
                      <chakra.dd className="figure">{one.text}</chakra.dd>
                    </Box>
                  ))}
                </Grid>
              </Box>
            ))}
          </Panel>
          <TryGear />
        </Flex>
        <Flex direction="column" gap="5">
          <Sensors />
          <Outlets />
          <Drills />
        </Flex>
      </Grid>
    </Shell>
  );
}
