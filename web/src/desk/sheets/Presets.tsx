import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, type Shot, told } from "../../api/client";
import { Entry, Field, Fields } from "../../app/Field";
import { Action, Leads, Said } from "../../app/parts";
import { Beside } from "../beside";
import { Sheet } from "./Sheet";

type Part = Schemas["Preset"]["parts"][number];
const PARTS: readonly (readonly [Part, string])[] = [
  ["start", "start and end"],
  ["timing", "interval, frames, playback"],
  ["light", "light and exposure"],
  ["framing", "where it looks"],
  ["camera", "who fires, mode, what is kept"],
  ["decisions", "focus, stabilising, style, sound"],
  ["move", "move or walk"],
  ["outputs", "what is made of it"],
  ["kit", "kit and what feeds what"],
];

/** Parts of a shot that served once, laid over this one: first what that would change, then taken. */
export function Presets(props: {
  shot: Shot;
  open: boolean;
  onClose: () => void;
  onTake: (shot: Shot) => void;
}) {
  const { shot, open, onClose, onTake } = props;
  const queries = useQueryClient();
  const list = useQuery({
    queryKey: ["presets"],
    queryFn: () => told(api.GET("/api/presets")),
    enabled: open,
    staleTime: 0,
  });
  const [sought, setSought] = useState("");
  const look = useMutation({
    mutationFn: (id: string) =>
      told(api.POST("/api/presets/{id}/laid", { params: { path: { id } }, body: shot })),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ["presets"] });
  const remove = useMutation({
    mutationFn: (id: string) => told(api.DELETE("/api/presets/{id}", { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = (list.data ?? []).filter((one) =>
    words.every((word) => `${one.name} ${one.surroundings}`.toLowerCase().includes(word)),
  );
  return (
    <Sheet title="Presets" open={open} onClose={onClose} width="680px" testId="presets">
      {list.data?.length === 0 && (
        <Box color="inkSoft" mb="3">
          None yet. Keep what served you, with the surroundings that it was for; lay it over another shot
          later.
        </Box>
      )}
      {(list.data?.length ?? 0) > 4 && (
        <Box mb="2">
          <Field label="Search by name or surroundings">
            {(id) => <Entry id={id} value={sought} onTake={setSought} />}
          </Field>
        </Box>
      )}
      {rows.map((one) => (
        <Box key={one.id} py="2" borderBottom="1px solid" borderColor="line" data-preset={one.name}>
          <Flex gap="3" align="center" wrap="wrap">
            <Box flex="1">
              <b>{one.name}</b> <chakra.span color="inkSoft">{one.surroundings}</chakra.span>
              <Box fontSize="13px" color="inkSoft">
                {PARTS.filter(([part]) => one.parts.includes(part))
                  .map(([, said]) => said)
                  .join("; ")}
              </Box>
            </Box>
            <Action minH="9" disabled={look.isPending} onClick={() => look.mutate(one.id ?? "")}>
              What it changes
            </Action>
            <Leads to={`/api/presets/${one.id}`} download={`${one.name}.json`} reloadDocument fontSize="14px">
              As JSON
            </Leads>
            <Action minH="9" aria-label={`Delete ${one.name}`} onClick={() => remove.mutate(one.id ?? "")}>
              Delete
            </Action>
          </Flex>
          {look.variables === one.id && look.error && <Said>{look.error.message}</Said>}
          {look.variables === one.id && look.data && (
            <Box bg="accentSoft" p="3" mt="2" borderRadius="5px" data-testid="changes">
              {look.data.changed.length === 0 ? (
                <Box>Nothing: this shot is so already.</Box>
              ) : (
                look.data.changed.map((line) => <Box key={line}>{line}</Box>)
              )}
              <Action
                strong
                mt="2"
                disabled={look.data.changed.length === 0}
                onClick={() => {
                  if (!look.data) return;
                  onTake(look.data.shot);
                  look.reset();
                  onClose();
                }}
                data-testid="lay"
              >
                Lay it over this shot
              </Action>
              {look.data.changed.length > 0 && (
                <Beside ml="2" said={one.name} what={{ other: look.data.shot, name: one.name }} />
              )}
            </Box>
          )}
        </Box>
      ))}
      <Keep shot={shot} onKept={refresh} />
    </Sheet>
  );
}

function Keep({ shot, onKept }: { shot: Shot; onKept: () => void }) {
  const [name, setName] = useState("");
  const [surroundings, setSurroundings] = useState("");
  const [parts, setParts] = useState<Part[]>(["light"]);
  const keep = useMutation({
    mutationFn: () => told(api.POST("/api/presets", { body: { shot, name, surroundings, parts } })),
    onSuccess: () => {
      setName("");
      onKept();
    },
  });
  return (
    <Box mt="4">
      <chakra.b>Keep parts of this shot</chakra.b>
      <Fields>
        <Field label="Name">
          {(id) => <Entry id={id} value={name} onTake={setName} data-testid="preset-name" />}
        </Field>
        <Field label="Surroundings" unit="such as: moonless, frost">
          {(id) => <Entry id={id} value={surroundings} onTake={setSurroundings} />}
        </Field>
      </Fields>
      <Flex wrap="wrap" mt="1">
        {PARTS.map(([part, said]) => (
          <chakra.label key={part} display="inline-flex" gap="2" alignItems="center" minH="9" mr="4">
            <input
              type="checkbox"
              data-part={part}
              checked={parts.includes(part)}
              onChange={(event) =>
                setParts(event.target.checked ? [...parts, part] : parts.filter((one) => one !== part))
              }
            />
            {said}
          </chakra.label>
        ))}
      </Flex>
      {keep.error && <Said>{keep.error.message}</Said>}
      <Action mt="2" disabled={keep.isPending} onClick={() => keep.mutate()} data-testid="keep-preset">
        Keep them
      </Action>
    </Box>
  );
}
