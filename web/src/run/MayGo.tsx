import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { api, type Schemas, told } from "../api/client";
import { Action, Leads, Said, type Severity, StateMark } from "../app/parts";
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
        <Flex
          key={why.text}
          gap="2"
          align="baseline"
          wrap="wrap"
          mt="1"
          fontSize={{ base: "16px", md: "20px" }}
        >
          {/* The first stands above, in large. */}
          {n > 0 && <StateMark severity={LOOK[why.level].mark} />}
          {n > 0 && why.text}
          {why.field && (
            <Leads to={`/shots/${run.shot_id}?field=${why.field}`} fontSize="16px">
              Change it on the desk
            </Leads>
          )}
          {why.fix && <Mend run={run} field={why.field ?? ""} fix={why.fix} />}
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

/** Changes the shot by what mends it; the run goes on as it was armed. */
function Mend(props: { run: Schemas["RunView"]; field: string; fix: Schemas["GoFix"] }) {
  const { run, field, fix } = props;
  const mend = useMutation({
    mutationFn: () =>
      told(api.POST("/api/runs/{id}/mend", { params: { path: { id: run.id } }, body: { field } })),
  });
  if (mend.data)
    return (
      <span role="status">
        {mend.data.told} <Leads to={`/shots/${mend.data.shot_id}`}>Arm it anew</Leads>
      </span>
    );
  return (
    <>
      <Action minH="11" data-testid="mend" disabled={mend.isPending} onClick={() => mend.mutate()}>
        {fix.label}
      </Action>
      <chakra.span color="inkSoft">{fix.price}</chakra.span>
      {mend.error && <Said>{mend.error.message}</Said>}
    </>
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
