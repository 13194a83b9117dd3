import { chakra, Grid } from "@chakra-ui/react";
import { Fragment } from "react";
import { Sheet } from "./Sheet";

const KEYS = [
  ["Tab", "next number of the sentence"],
  ["↑ ↓", "nudge the number; with Shift by five"],
  ["=", "in a number: have it solved from the others"],
  ["Enter · Esc", "take what was typed · let it go"],
  ["1 2 3 4 5", "make Time, Light, Move, Feed or Afterwards tall"],
  ["← →", "on the loom: walk the frames; with Shift by ten"],
  ["Home · End", "on the loom: first and last frame"],
  ["+ −", "on the loom: closer, further"],
  ["Page ↑ ↓", "on the loom: along the night"],
  ["0", "on the loom: the whole shot"],
  ["Ctrl Z", "undo; with Shift redo"],
  ["A", "in Move: a key at the plumb line"],
  ["D · Del", "in Move: the key next to it again · taken away"],
  ["M V T N", "in Move: mirror, reverse, stretch, snap to frames"],
  ["← → ↑ ↓", "in the finder of Afterwards: move the frame; + − closer, wider"],
  ["K", "kit, place and framing"],
  ["F", "find a way to make it work: whole plans in which nothing fails"],
  ["R", "run"],
  ["?", "this sheet"],
] as const;

/** What the desk's own words mean. */
const WORDS = [
  ["Sentence", "the shot in words; every number can be typed over"],
  ["Loom", "the drawing below it: the clock on the wall above, the film below, threads between them"],
  ["Weave", "the threads: each leads from the moment of a frame to its place in the film"],
  ["Plumb line", "the upright line on the loom; it stands at one frame, which the foot reads out"],
  ["Feed", "what the shot uses up: battery and card"],
  [
    "Output",
    "what is made of the shot afterwards: a size, a rate, and keys that move the frame within the picture",
  ],
  ["Wish", "so much more or less light than the scene asks for, at a moment"],
  ["Dead band", "what a stepped ramp lets pass before it steps"],
  ["Finding", "what will go wrong, why, and what can be done about it"],
  ["Rehearsal", "the shot run against its kit in no time: what would be left, where it would stop"],
] as const;

/** Everything that can be done without a mouse, and the words that are the desk's own. */
export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet
      title="By keyboard, and in the desk's own words"
      open={open}
      onClose={onClose}
      width="860px"
      testId="shortcuts"
    >
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="6">
        <Grid templateColumns="auto 1fr" columnGap="5" rowGap="1.5" alignContent="start">
          {KEYS.map(([key, meaning]) => (
            <Fragment key={key}>
              <chakra.kbd className="figure" fontWeight="700">
                {key}
              </chakra.kbd>
              <span>{meaning}</span>
            </Fragment>
          ))}
        </Grid>
        <chakra.dl fontSize="14px">
          {WORDS.map(([word, meaning]) => (
            <Fragment key={word}>
              <chakra.dt fontWeight="700">{word}</chakra.dt>
              <chakra.dd mb="2" color="inkSoft">
                {meaning}
              </chakra.dd>
            </Fragment>
          ))}
        </chakra.dl>
      </Grid>
    </Sheet>
  );
}
