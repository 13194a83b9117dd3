import { chakra, Dialog, Grid, Portal } from "@chakra-ui/react";
import { Fragment } from "react";

const KEYS = [
  ["Tab", "next number of the sentence"],
  ["↑ ↓", "nudge the number; with Shift by five"],
  ["=", "in a number: have it solved from the others"],
  ["Enter · Esc", "take what was typed · let it go"],
  ["1 2 3 4", "make Time, Light, Move or Feed tall"],
  ["← →", "on the loom: walk the frames; with Shift by ten"],
  ["Home · End", "on the loom: first and last frame"],
  ["+ −", "on the loom: closer, further"],
  ["Page ↑ ↓", "on the loom: along the night"],
  ["0", "on the loom: the whole shot"],
  ["Ctrl Z", "undo; with Shift redo"],
  ["A", "in Move: a key at the plumb line"],
  ["D · Del", "in Move: the key next to it again · taken away"],
  ["M V T N", "in Move: mirror, reverse, stretch, snap to frames"],
  ["K", "kit, place and framing"],
  ["R", "run"],
  ["?", "this sheet"],
] as const;

/** Everything that can be done without a mouse. */
export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(change) => !change.open && onClose()} placement="center">
      <Portal>
        <Dialog.Backdrop bg="ground" opacity={0.8} />
        <Dialog.Positioner>
          <Dialog.Content bg="card" color="ink" borderRadius="8px" p="5" maxW="480px" data-testid="shortcuts">
            <Dialog.Title fontSize="20px" fontWeight="700" mb="3">
              By keyboard
            </Dialog.Title>
            <Grid templateColumns="auto 1fr" columnGap="5" rowGap="1.5">
              {KEYS.map(([key, meaning]) => (
                <Fragment key={key}>
                  <chakra.kbd className="figure" fontWeight="700">
                    {key}
                  </chakra.kbd>
                  <span>{meaning}</span>
                </Fragment>
              ))}
            </Grid>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
