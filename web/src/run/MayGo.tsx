import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { Leads, type Severity, StateMark, Tick } from "../app/parts";

type Verdict = NonNullable<Schemas["RunView"]["verdict"]>;
type Level = Verdict["level"];

const LOOK: Record<Level, { bg: string; mark: Severity }> = {
  go: { bg: "holdSoft", mark: "good" },
  mind: { bg: "accentSoft", mark: "mind" },
  stop: { bg: "failSoft", mark: "stop" },
};
/** Pitches in hertz, one after the other: rising for go, one that stays for mind, falling thrice for stop. */
const NOTES: Record<Level, number[]> = { go: [523, 784], mind: [440], stop: [330, 262, 330, 262, 330, 262] };
const NOTE_S = 0.22;

/** May I go? What the first frames came to, large enough for a few metres, and heard where that is wanted. */
export function MayGo({ run }: { run: Schemas["RunView"] }) {
  const { verdict } = run;
  const sound = useSound(verdict ? `${run.id} ${verdict.after}` : "", verdict?.level);
  const tick = (
    <Tick of="sound" checked={sound.on} onTick={sound.turn}>
      Tell me by sound
    </Tick>
  );
  if (run.state !== "running" && run.state !== "armed") return null;
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
        <Flex gap="4" align="center" wrap="wrap" fontSize={{ base: "18px", md: "24px" }}>
          Stay a moment: the first frames are looked at as they come.
          {tick}
        </Flex>
      </Band>
    );
  }
  return (
    <Band level={verdict.level} testId="may-go">
      <Flex gap="4" align="baseline" wrap="wrap">
        <chakra.h2 fontSize={{ base: "26px", md: "44px" }} fontWeight="700" lineHeight="1.15" role="status">
          {verdict.told}
        </chakra.h2>
        {tick}
      </Flex>
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

/** Plays what is new; a browser lets nothing be heard before somebody has pressed something. */
function useSound(key: string, level: Level | undefined) {
  const [on, setOn] = useState(false);
  const player = useRef<AudioContext | null>(null);
  const heard = useRef(key);
  useEffect(() => {
    if (heard.current === key || !level) return;
    heard.current = key;
    if (on && player.current) play(player.current, level);
  }, [key, level, on]);
  const turn = (wanted: boolean) => {
    setOn(wanted);
    if (!wanted) return;
    player.current ??= new AudioContext();
    // What stands already is told at once, so that one knows how it sounds.
    if (level) play(player.current, level);
  };
  return { on, turn };
}

function play(player: AudioContext, level: Level) {
  NOTES[level].forEach((pitch, n) => {
    const tone = player.createOscillator();
    const loud = player.createGain();
    const at = player.currentTime + n * NOTE_S;
    tone.frequency.value = pitch;
    loud.gain.setValueAtTime(0.4, at);
    loud.gain.linearRampToValueAtTime(0, at + NOTE_S * (level === "mind" ? 3 : 0.95));
    tone.connect(loud).connect(player.destination);
    tone.start(at);
    tone.stop(at + NOTE_S * 3);
  });
}
