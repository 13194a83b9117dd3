import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Schemas } from "../api/client";
import { Leads, type Severity, StateMark } from "../app/parts";
import { type Sound, useCall } from "./sound";

type Verdict = NonNullable<Schemas["RunView"]["verdict"]>;
type Level = Verdict["level"];

const LOOK: Record<Level, { bg: string; mark: Severity }> = {
  go: { bg: "holdSoft", mark: "good" },
  mind: { bg: "accentSoft", mark: "mind" },
  stop: { bg: "failSoft", mark: "stop" },
};
/** May I go? What the first frames came to, large enough for a few metres, and heard where that is wanted. */
export function MayGo({ run, sound }: { run: Schemas["RunView"]; sound: Sound }) {
  const { verdict } = run;
  const live = run.state === "running" || run.state === "armed";
  useCall(sound, verdict ? `${run.id} ${verdict.after}` : "", live ? verdict?.level : undefined, false);
  if (!live) return null;
  if (run.look_at)
    return (
      <Band level="mind" testId="look-at">
        <Box fontSize={{ base: "18px", md: "24px" }}>{run.look_at}</Box>
      </Band>
    );
  if (!verdict) {
    if (run.state !== "running" || run.live) return null;
    return (
      <Band level="mind" testId="may-go">
        <Box fontSize={{ base: "18px", md: "24px" }}>
          Stay a moment: the first frames are looked at as they come.
        </Box>
      </Band>
    );
  }
  return (
    <Band level={verdict.level} testId="may-go">
      <chakra.h2 fontSize={{ base: "26px", md: "44px" }} fontWeight="700" lineHeight="1.15" role="status">
        {verdict.told}
      </chakra.h2>
      {verdict.reasons?.map((why, n) => (
        <Flex key={why.text} gap="2" align="baseline" mt="1" fontSize={{ base: "16px", md: "20px" }}>
          {/* The first stands above, in large. */}
          {n > 0 && <StateMark severity={LOOK[why.level].mark} />}
          {n > 0 && why.text}
          {why.field && (
            <Leads to={`/shots/${run.shot_id}?field=${why.field}`} fontSize="16px">
              Change it on the desk
            </Leads>
          )}
        </Flex>
      ))}
      {verdict.price && (
        <Box mt="1" fontSize="18px" color="inkSoft">
          {verdict.price}
        </Box>
      )}
    </Band>
  );
}

function Band(props: { level: Level; testId: string; children: React.ReactNode }) {
  const { level, testId, children } = props;
  return (
    <Flex
      bg={LOOK[level].bg}
      borderTop="2px solid"
      borderColor="ground"
      px={{ base: "4", md: "10" }}
      py="4"
      gap="4"
      align="flex-start"
      data-testid={testId}
      data-level={level}
    >
      <Box pt="1">
        <StateMark severity={LOOK[level].mark} size={28} />
      </Box>
      <Box flex="1">{children}</Box>
    </Flex>
  );
}
