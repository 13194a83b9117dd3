import { chakra, Dialog, Flex, Portal } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Shot, told } from "../api/client";
import { Choice, Entry, Field, Fields } from "../app/Field";
import { Action, Leads, Said } from "../app/parts";
import type { DeskState } from "./useDesk";

/** What is not in the sentence: name, date, place, kit, and where the camera looks. */
export function ShotDetails({
  desk,
  shot,
  open,
  onClose,
}: {
  desk: DeskState;
  shot: Shot;
  open: boolean;
  onClose: () => void;
}) {
  const gear = useQuery({
    queryKey: ["gear", false],
    queryFn: () => told(api.GET("/api/gear")),
    enabled: open,
  });
  const places = useQuery({
    queryKey: ["places"],
    queryFn: () => told(api.GET("/api/places")),
    enabled: open,
  });
  const [fault, setFault] = useState("");
  const put = async (change: Partial<Shot>) => setFault((await desk.put({ ...shot, ...change })) ?? "");
  const pieces = (kind: "body" | "lens" | "card") =>
    (gear.data ?? [])
      .filter((one) => one.document.kind === kind)
      .map((one) => [one.id, one.document.name] as const);
  const choose = (kind: "body" | "lens" | "card") => (id: string) => {
    const found = gear.data?.find((one) => one.id === id)?.document;
    if (found) void put({ kit: { ...shot.kit, [kind]: found } });
  };
  const filters = (gear.data ?? []).flatMap((one) => (one.document.kind === "filter" ? [one.document] : []));
  const movers = (gear.data ?? []).flatMap((one) => (one.document.kind === "mover" ? [one.document] : []));
  const carry = (filter: (typeof filters)[number], take: boolean) => {
    const rest = (shot.kit.filters ?? []).filter(({ id }) => id !== filter.id);
    void put({
      kit: { ...shot.kit, filters: take ? [...rest, filter] : rest },
      light: { ...shot.light, filters: (shot.light.filters ?? []).filter((id) => take || id !== filter.id) },
    });
  };
  const frame = (change: Partial<Shot["framing"]>) => void put({ framing: { ...shot.framing, ...change } });
  return (
    <Dialog.Root open={open} onOpenChange={(change) => !change.open && onClose()} placement="center">
      <Portal>
        <Dialog.Backdrop bg="ground" opacity={0.8} />
        <Dialog.Positioner>
          <Dialog.Content bg="card" color="ink" borderRadius="8px" p="5" maxW="620px">
            <Dialog.Title fontSize="20px" fontWeight="700" mb="3">
              Kit, place and framing
            </Dialog.Title>
            <Fields>
              <Field label="Name">
                {(id) => <Entry id={id} value={shot.name} onTake={(name) => void put({ name })} />}
              </Field>
              <Field label="Date" unit="at the place">
                {(id) => (
                  <Entry id={id} type="date" value={shot.date} onTake={(date) => void put({ date })} />
                )}
              </Field>
              <Field label="Place">
                {(id) => (
                  <Choice
                    id={id}
                    value={shot.place.id}
                    options={(places.data ?? []).map((one) => [one.id, one.document.name] as const)}
                    onChoose={(id) => {
                      const place = places.data?.find((one) => one.id === id)?.document;
                      if (place) void put({ place });
                    }}
                  />
                )}
              </Field>
              <Field label="Body">
                {(id) => (
                  <Choice
                    id={id}
                    value={shot.kit.body.id}
                    options={pieces("body")}
                    onChoose={choose("body")}
                  />
                )}
              </Field>
              <Field label="Lens">
                {(id) => (
                  <Choice
                    id={id}
                    value={shot.kit.lens.id}
                    options={pieces("lens")}
                    onChoose={choose("lens")}
                  />
                )}
              </Field>
              <Field label="Card">
                {(id) => (
                  <Choice
                    id={id}
                    value={shot.kit.card.id}
                    options={pieces("card")}
                    onChoose={choose("card")}
                  />
                )}
              </Field>
              <Field label="Looks towards" unit="° from north">
                {(id) => (
                  <Entry
                    id={id}
                    inputMode="decimal"
                    value={shot.framing.heading_deg}
                    onTake={(text) => frame({ heading_deg: Number(text) })}
                  />
                )}
              </Field>
              <Field label="Tilted up by" unit="°">
                {(id) => (
                  <Entry
                    id={id}
                    inputMode="decimal"
                    value={shot.framing.tilt_deg}
                    onTake={(text) => frame({ tilt_deg: Number(text) })}
                  />
                )}
              </Field>
            </Fields>
            <Carried
              legend="Filters that come along"
              owned={filters}
              carried={shot.kit.filters ?? []}
              onCarry={carry}
            />
            <Carried
              legend="Movers, from the ground up"
              owned={movers}
              carried={shot.kit.movers ?? []}
              onCarry={(mover, take) => {
                const rest = (shot.kit.movers ?? []).filter(({ id }) => id !== mover.id);
                void put({ kit: { ...shot.kit, movers: take ? [...rest, mover] : rest } });
              }}
            />
            <chakra.label display="flex" gap="2" alignItems="center" minH="9" mt="2">
              <input
                type="checkbox"
                checked={shot.needs_dark}
                onChange={(event) => void put({ needs_dark: event.target.checked })}
              />
              It needs the dark: stars, or aurora
            </chakra.label>
            <Field label="Note">
              {(id) => <Entry id={id} value={shot.note} onTake={(note) => void put({ note })} />}
            </Field>
            <Flex minH="7" mt="2">
              {fault && <Said>{fault}</Said>}
            </Flex>
            <Flex gap="4" align="center" wrap="wrap">
              <Leads to={`/api/shots/${shot.id}/file`} reloadDocument fontSize="14px">
                Export as JSON
              </Leads>
              <Action strong ml="auto" onClick={onClose}>
                Done
              </Action>
            </Flex>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}

/** Checks off which of the owned pieces come along. */
function Carried<T extends { id?: string; name: string }>(props: {
  legend: string;
  owned: T[];
  carried: { id?: string }[];
  onCarry: (piece: T, take: boolean) => void;
}) {
  const { legend, owned, carried, onCarry } = props;
  return (
    <chakra.fieldset mt="3">
      <chakra.legend fontSize="14px" color="inkSoft">
        {legend}
      </chakra.legend>
      {owned.length === 0 && <chakra.p fontSize="14px">None is owned yet: add them under Kit.</chakra.p>}
      {owned.map((one) => {
        const comes = carried.some(({ id }) => id === one.id);
        return (
          <chakra.label key={one.id} display="inline-flex" gap="2" alignItems="center" minH="9" mr="4">
            <input type="checkbox" checked={comes} onChange={() => onCarry(one, !comes)} />
            {one.name}
          </chakra.label>
        );
      })}
    </chakra.fieldset>
  );
}
