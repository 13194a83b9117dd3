import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Action, Panel, Said, StateMark } from "../app/parts";

const LOOK_MS = 2_000;

/** What the rig's sensors said last, and the token by which they may say something. */
export function Sensors({ rig, name }: { rig: string; name: string }) {
  const sensors = useQuery({
    queryKey: ["sensors", rig],
    queryFn: () => told(api.GET("/api/sensors", { params: { query: { rig } } })),
    refetchInterval: LOOK_MS,
  });
  const renew = useMutation({
    mutationFn: () => told(api.POST("/api/sensors/token", { params: { query: { rig } } })),
  });
  return (
    <Panel title={name ? `Sensors of ${name}` : "Sensors"}>
      <chakra.p color="inkSoft" mb="3">
        A sensor of light, sound or movement, or a reader of code cards, posts what it finds to{" "}
        <chakra.code>/api/sensors</chakra.code> with the rig's token. A shot can wait for that.
      </chakra.p>
      {sensors.data?.hears.length === 0 && (
        <chakra.p mb="2">
          {sensors.data.may ? "None has said anything yet." : "No token has been given out yet."}
        </chakra.p>
      )}
      <Grid as="dl" templateColumns="auto 120px 1fr auto" columnGap="3" rowGap="1" alignItems="baseline">
        {sensors.data?.hears.map((one) => (
          <Box key={one.label} display="contents" data-sensor={one.label}>
            <StateMark severity={one.tone === "good" ? "good" : "mind"} />
            <chakra.dt color="inkSoft">{one.label}</chakra.dt>
            <chakra.dd className="figure">{one.text}</chakra.dd>
            <chakra.dd color="inkSoft">{one.ago}</chakra.dd>
          </Box>
        ))}
      </Grid>
      <Flex gap="3" mt="3" wrap="wrap" align="center">
        <Action minH="11" disabled={renew.isPending} data-testid="new-token" onClick={() => renew.mutate()}>
          {sensors.data?.may ? "Give out another token" : "Give out a token"}
        </Action>
        {renew.data && (
          <Box>
            Told this once; the one before is void:{" "}
            <chakra.code className="figure" overflowWrap="anywhere" data-testid="token">
              {renew.data.token}
            </chakra.code>
          </Box>
        )}
      </Flex>
      {(sensors.error ?? renew.error) && <Said>{(sensors.error ?? renew.error)?.message}</Said>}
    </Panel>
  );
}
