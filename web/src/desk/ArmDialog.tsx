import { Box, chakra, Dialog, Flex, Portal } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, told } from "../api/client";
import { Action, Said } from "../app/parts";

const SPEEDS = [1, 60, 240, 600, 1200];

/** Leaves the shot to the rig: now, or as planned; simulated gear may go faster than the clock. */
export function ArmDialog({ shotId, open, onClose }: { shotId: string; open: boolean; onClose: () => void }) {
  const go = useNavigate();
  const [when, setWhen] = useState<"now" | "planned">("planned");
  const [speed, setSpeed] = useState(600);
  const arm = useMutation({
    mutationFn: () => told(api.POST("/api/runs", { body: { shot_id: shotId, when, speed } })),
    onSuccess: (run) => go(`/runs/${run.id}`),
  });
  return (
    <Dialog.Root open={open} onOpenChange={(change) => !change.open && onClose()} placement="center">
      <Portal>
        <Dialog.Backdrop bg="ground" opacity={0.8} />
        <Dialog.Positioner>
          <Dialog.Content bg="card" color="ink" borderRadius="8px" p="5" maxW="460px">
            <Dialog.Title fontSize="20px" fontWeight="700">
              Leave it to the camera
            </Dialog.Title>
            <Box mt="3">
              <chakra.fieldset>
                <chakra.legend color="inkSoft" mb="1">
                  First frame
                </chakra.legend>
                {(
                  [
                    ["planned", "When the sentence says"],
                    ["now", "Now"],
                  ] as const
                ).map(([value, name]) => (
                  <chakra.label
                    key={value}
                    display="flex"
                    gap="2"
                    alignItems="center"
                    minH="9"
                    cursor="pointer"
                  >
                    <input
                      type="radio"
                      name="when"
                      checked={when === value}
                      onChange={() => setWhen(value)}
                    />
                    {name}
                  </chakra.label>
                ))}
              </chakra.fieldset>
              <chakra.label display="block" mt="3">
                <chakra.span color="inkSoft" display="block" mb="1">
                  Stage clock (this rig is simulated)
                </chakra.span>
                <chakra.select
                  className="figure"
                  value={speed}
                  bg="lane"
                  border="1.5px solid"
                  borderColor="line"
                  borderRadius="6px"
                  p="2"
                  width="100%"
                  onChange={(event) => setSpeed(Number(event.target.value))}
                >
                  {SPEEDS.map((one) => (
                    <option key={one} value={one}>
                      {one === 1 ? "× 1, the clock on the wall" : `× ${one}`}
                    </option>
                  ))}
                </chakra.select>
              </chakra.label>
              <Box minH="26px" mt="2">
                {arm.error && <Said>{arm.error.message}</Said>}
              </Box>
            </Box>
            <Flex gap="3" mt="2" justify="flex-end">
              <Action onClick={onClose}>Not yet</Action>
              <Action strong disabled={arm.isPending} onClick={() => arm.mutate()} data-testid="arm">
                Arm the camera
              </Action>
            </Flex>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
