import { useEffect, useRef, useState } from "react";

export type Call = "go" | "mind" | "stop" | "come" | "look";

/** Pitches in hertz, one after the other: what rises is good, what falls is not, and what one is called for climbs and
 * falls over and over. */
const NOTES: Record<Call, number[]> = {
  go: [523, 784],
  mind: [440],
  stop: [330, 262, 330, 262, 330, 262],
  look: [392, 440],
  come: [659, 494, 659, 494, 659, 494, 659, 494],
};
const NOTE_S = 0.22;
const AGAIN_MS = 15_000;

/** Sounds that are heard once somebody has asked for them: a browser lets nothing be heard before. */
export function useSound() {
  const [on, setOn] = useState(false);
  const player = useRef<AudioContext | null>(null);
  const turn = (wanted: boolean) => {
    if (wanted) player.current ??= new AudioContext();
    setOn(wanted);
  };
  return { on, turn, player };
}

export type Sound = ReturnType<typeof useSound>;

/** Plays a call when it is new, when sound is asked for, and, where it is to be answered, again and again. */
export function useCall(sound: Sound, key: string, call: Call | undefined, again: boolean) {
  const { on, player } = sound;
  useEffect(() => {
    if (!on || !call || !key || !player.current) return;
    const now = player.current;
    play(now, call);
    if (!again) return;
    const timer = window.setInterval(() => play(now, call), AGAIN_MS);
    return () => window.clearInterval(timer);
  }, [on, key, call, again, player]);
}

function play(player: AudioContext, call: Call) {
  NOTES[call].forEach((pitch, n) => {
    const tone = player.createOscillator();
    const loud = player.createGain();
    const at = player.currentTime + n * NOTE_S;
    tone.frequency.value = pitch;
    loud.gain.setValueAtTime(0.4, at);
    loud.gain.linearRampToValueAtTime(0, at + NOTE_S * (call === "mind" ? 3 : 0.95));
    tone.connect(loud).connect(player.destination);
    tone.start(at);
    tone.stop(at + NOTE_S * 3);
  });
}
