import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { api, type Schemas, told } from "../api/client";
import { Large, Said, StateMark } from "../app/parts";
import { type Sound, useCall } from "./sound";

type RunView = Schemas["RunView"];

/** What a person is called for, until one has seen it: large, and heard again and again where that is wanted. */
export function Alarms(props: { run: RunView; sound: Sound; who: string; onRun: (run: RunView) => void }) {
  const { run, sound, who, onRun } = props;
  const unseen = (run.alarms ?? []).filter((one) => !one.seen);
  const first = unseen[0];
  useCall(sound, first?.id ?? "", first?.level, first?.level === "come");
  const see = useMutation({
    mutationFn: (id: string) =>
      told(
        api.POST("/api/alarms/{id}/seen", {
          params: { path: { id } },
          body: { by: who },
        }),
      ),
    onSuccess: onRun,
  });
  if (!run.alarms?.length) return null;
  return (
    <Box data-testid="alarms">
      {run.alarms.map((one) => {
        const calls = one.level === "come" && !one.seen;
        return (
          <Flex
            key={one.id}
            bg={calls ? "fail" : one.seen ? "card" : "accentSoft"}
            color={calls ? "ground" : "ink"}
            px={{ base: "4", md: "10" }}
            py={calls ? "4" : "2"}
            gap="4"
            align="center"
            wrap="wrap"
            borderTop="2px solid"
            borderColor="ground"
            role={one.seen ? undefined : "alert"}
            data-alarm={one.level}
            data-seen={one.seen}
          >
            {!calls && <StateMark severity={one.seen ? "unseen" : "mind"} size={20} />}
            <Box flex="1" minW={{ base: "100%", md: "320px" }}>
              <chakra.div
                fontSize={calls ? { base: "28px", md: "52px" } : { base: "17px", md: "20px" }}
                fontWeight={one.seen ? 400 : 700}
                lineHeight="1.15"
              >
                {calls ? "Come: " : one.seen ? "" : "Look: "}
                {one.text}
              </chakra.div>
              <Box fontSize={{ base: "15px", md: "18px" }}>
                {one.advice} <chakra.span className="figure">{one.since}</chakra.span>
                {one.seen_told && `, ${one.seen_told}`}
              </Box>
            </Box>
            {!one.seen && (
              <Large type="button" disabled={see.isPending} onClick={() => see.mutate(one.id)}>
                I have seen it
              </Large>
            )}
          </Flex>
        );
      })}
      {see.error && <Said>{see.error.message}</Said>}
    </Box>
  );
}
