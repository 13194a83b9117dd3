import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, told } from "../../api/client";
import { Choice, Field, Typing } from "../../app/Field";
import { Action, Leads, Said, StateMark, Tick } from "../../app/parts";
import { Sheet } from "./Sheet";

/** Leaves the shot to the rig: now, or as planned; simulated gear may go faster than the clock. */
export function ArmDialog(props: {
  shotId: string;
  open: boolean;
  onClose: () => void;
  savedVersion: () => Promise<number | null>;
}) {
  const { shotId, open, onClose, savedVersion } = props;
  const go = useNavigate();
  const [when, setWhen] = useState<"now" | "planned">("planned");
  const [speed, setSpeed] = useState(1);
  const [anyway, setAnyway] = useState(false);
  const [queue, setQueue] = useState(false);
  const [nights, setNights] = useState("1");
  // Empty: the one that has the shot's body.
  const [rig, setRig] = useState("");
  const before = useQuery({
    queryKey: ["arming", shotId, when, speed, rig],
    queryFn: () =>
      told(
        api.GET("/api/shots/{id}/arming", {
          params: { path: { id: shotId }, query: { when, speed, ...(rig && { rig }) } },
        }),
      ),
    enabled: open,
    staleTime: 0,
    placeholderData: (last) => last,
  });
  const arm = useMutation({
    mutationFn: async () => {
      // What is armed is what stands on the desk, and nothing else.
      const version = await savedVersion();
      if (version === null) throw new Error("The shot is not saved yet, so it cannot be armed.");
      return told(
        api.POST("/api/runs", {
          body: {
            shot_id: shotId,
            version,
            rig: known?.rig,
            when,
            speed,
            anyway,
            queue,
            nights: severally ? Number(nights) || 0 : 1,
          },
        }),
      );
    },
    onSuccess: (run) => go(`/runs/${run.id}`),
  });
  const known = before.data;
  // Only by the clock on the wall there is a next night.
  const severally = when === "planned" && speed === 1;
  const speeds = known?.speeds ?? [1];
  const held = !known || (known.stops && !anyway) || (known.busy !== "" && !queue);
  return (
    <Sheet title="Leave it to the camera" open={open} onClose={onClose} width="520px">
      {known && known.findings.length > 0 && (
        <Box bg="failSoft" borderRadius="5px" p="3" mb="3" data-testid="against">
          <chakra.b>What stands against it</chakra.b>
          {known.findings.map((one) => (
            <Flex key={one.sentence} gap="2" align="baseline" mt="1.5">
              <StateMark severity={one.severity} />
              <Box>
                {one.sentence}
                <Box fontSize="13px" color="inkSoft">
                  {one.figures}
                </Box>
              </Box>
            </Flex>
          ))}
          {known.stops && (
            <Tick checked={anyway} onTick={setAnyway} of="anyway">
              Arm it anyway; it is kept with the run what stood against it
            </Tick>
          )}
        </Box>
      )}
      {known && (known.findings.length > 0 || known.open.length > 0) && (
        <Box mb="3" fontSize="14px" data-testid="as-it-stands">
          <b>As it stands:</b> {known.as_it_stands}
        </Box>
      )}
      {known && known.open.length > 0 && (
        <chakra.details mb="3" fontSize="14px" data-testid="open-steps">
          <chakra.summary cursor="pointer" minH="9">
            Rigged up: {known.steps}. <Leads to={`/shots/${shotId}/rig-up`}>Go through the list</Leads>
          </chakra.summary>
          {known.open.map((says) => (
            <Flex key={says} gap="2" align="baseline">
              <StateMark severity="unseen" />
              <span>{says}</span>
            </Flex>
          ))}
          <Box color="inkSoft">What is left open is kept with the run.</Box>
        </chakra.details>
      )}
      {known?.busy && (
        <Box bg="accentSoft" borderRadius="5px" p="3" mb="3" data-testid="busy">
          {known.busy}
          <Tick checked={queue} onTick={setQueue} of="queue">
            Let this one wait until it is free
          </Tick>
        </Box>
      )}
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
          <chakra.label key={value} display="flex" gap="2" alignItems="center" minH="9" cursor="pointer">
            <input type="radio" name="when" checked={when === value} onChange={() => setWhen(value)} />
            {name}
          </chakra.label>
        ))}
      </chakra.fieldset>
      {known && known.rigs.length > 1 && (
        <Box mt="3">
          <Field label="On which rig">
            {(id) => (
              <Choice
                id={id}
                name="rig"
                value={rig || known.rig}
                options={known.rigs.map((one) => [one.key, one.name])}
                onChoose={(key) => {
                  setRig(key);
                  setSpeed(1);
                }}
              />
            )}
          </Field>
        </Box>
      )}
      <Box mt="3">
        <Field label={speeds.length > 1 ? "Stage clock (this rig is simulated)" : "Stage clock"}>
          {(id) => (
            <Choice
              id={id}
              className="figure"
              data-testid="speed"
              value={speed}
              options={speeds.map((one) => [String(one), speedName(one, speeds)])}
              onChoose={(value) => setSpeed(Number(value))}
            />
          )}
        </Field>
      </Box>
      {severally && (
        <Box mt="3">
          <Field
            label="On so many nights, each at its own start"
            hint="1 to 31; the first on the shot's date."
          >
            {(id) => (
              <Typing
                id={id}
                name="nights"
                inputMode="numeric"
                className="figure"
                width="90px"
                value={nights}
                onType={setNights}
              />
            )}
          </Field>
        </Box>
      )}
      <Box minH="26px" mt="2">
        {arm.error ? <Said>{arm.error.message}</Said> : before.error && <Said>{before.error.message}</Said>}
      </Box>
      <Flex gap="3" mt="2" justify="flex-end">
        <Action onClick={onClose}>Not yet</Action>
        <Action strong disabled={held || arm.isPending} onClick={() => arm.mutate()} data-testid="arm">
          Arm the camera
        </Action>
      </Flex>
    </Sheet>
  );
}

const speedName = (speed: number, all: number[]) =>
  speed === 1
    ? "× 1, the clock on the wall"
    : `× ${speed}${speed === all.at(-1) ? ", the fastest here" : ""}`;
