import { chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, type Shot, told } from "../../api/client";
import { Choice, Entry, Field, Fields } from "../../app/Field";
import { Action, Leads, Said } from "../../app/parts";
import type { DeskState } from "../useDesk";
import { Sheet } from "./Sheet";

const FIELDS = ["name", "date", "place", "framing.heading_deg", "framing.tilt_deg", "note"];

const EXTRAS = [
  ["support", "What it stands on"],
  ["source", "Power"],
  ["load", "Heaters, screens, radios, lamps"],
  ["part", "Cables and small parts"],
] as const;

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
  const [fault, setFault] = useState<{ field: string; message: string } | null>(null);
  // Changes are made to the shot that stands by then, one after the other: none undoes another.
  const change = async (how: (shot: Shot) => Shot) => setFault(await desk.put(how));
  const carry = async (piece: Schemas["CarryEdit"]["piece"], take: boolean) =>
    setFault(await desk.put((now) => now, [{ track: "carry", piece, take }]));
  const put = (part: Partial<Shot>) => change((now) => ({ ...now, ...part }));
  const at = (field: string) =>
    fault && (fault.field === field || fault.field === `shot.${field}`) ? fault.message : undefined;
  const placed = FIELDS.some((field) => at(field));
  const pieces = (kind: "body" | "lens" | "card") =>
    (gear.data ?? [])
      .filter((one) => one.document.kind === kind)
      .map((one) => [one.id, one.document.name] as const);
  const choose = (id: string) => {
    const found = gear.data?.find((one) => one.id === id)?.document;
    if (found) void carry(found, true);
  };
  const filters = (gear.data ?? []).flatMap((one) => (one.document.kind === "filter" ? [one.document] : []));
  const movers = (gear.data ?? []).flatMap((one) => (one.document.kind === "mover" ? [one.document] : []));
  const frame = (part: Partial<Shot["framing"]>) =>
    void change((now) => ({ ...now, framing: { ...now.framing, ...part } }));
  return (
    <Sheet title="Kit, place and framing" open={open} onClose={onClose} width="620px">
      <Fields>
        <Field label="Name" fault={at("name")}>
          {(id) => <Entry id={id} value={shot.name} onTake={(name) => void put({ name })} />}
        </Field>
        <Field label="Date" unit="at the place" fault={at("date")}>
          {(id) => <Entry id={id} type="date" value={shot.date} onTake={(date) => void put({ date })} />}
        </Field>
        <Field label="Place" fault={at("place")}>
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
          {(id) => <Choice id={id} value={shot.kit.body.id} options={pieces("body")} onChoose={choose} />}
        </Field>
        <Field label="Lens">
          {(id) => <Choice id={id} value={shot.kit.lens.id} options={pieces("lens")} onChoose={choose} />}
        </Field>
        <Field label="Card">
          {(id) => <Choice id={id} value={shot.kit.card.id} options={pieces("card")} onChoose={choose} />}
        </Field>
        <Field label="Looks towards" unit="° from north" fault={at("framing.heading_deg")}>
          {(id) => (
            <Entry
              id={id}
              inputMode="decimal"
              value={shot.framing.heading_deg}
              onTake={(text) => frame({ heading_deg: text as unknown as number })}
            />
          )}
        </Field>
        <Field label="Tilted up by" unit="°" fault={at("framing.tilt_deg")}>
          {(id) => (
            <Entry
              id={id}
              inputMode="decimal"
              value={shot.framing.tilt_deg}
              onTake={(text) => frame({ tilt_deg: text as unknown as number })}
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
        onCarry={carry}
      />
      {EXTRAS.map(([kind, legend]) => (
        <Carried
          key={kind}
          legend={legend}
          owned={(gear.data ?? []).flatMap((one) => (one.document.kind === kind ? [one.document] : []))}
          carried={shot.kit.extras ?? []}
          onCarry={carry}
        />
      ))}
      <chakra.label display="flex" gap="2" alignItems="center" minH="9" mt="2">
        <input
          type="checkbox"
          checked={shot.needs_dark}
          onChange={(event) => void put({ needs_dark: event.target.checked })}
        />
        It needs the dark: stars, or aurora
      </chakra.label>
      <Field label="Note" fault={at("note")}>
        {(id) => <Entry id={id} value={shot.note} onTake={(note) => void put({ note })} />}
      </Field>
      <Flex minH="7" mt="2">
        {fault && !placed && <Said>{fault.message}</Said>}
        {!fault && desk.brought.length > 0 && (
          <chakra.span role="status" fontSize="14px">
            Brought to the nearest that can be had: {desk.brought.map((one) => one.instead).join(", ")}.
          </chakra.span>
        )}
      </Flex>
      <Flex gap="4" align="center" wrap="wrap">
        <Leads to={`/api/shots/${shot.id}/file`} reloadDocument fontSize="14px">
          Export as JSON
        </Leads>
        <Action strong ml="auto" onClick={onClose}>
          Done
        </Action>
      </Flex>
    </Sheet>
  );
}

/** Checks off which of the owned pieces come along. */
function Carried<T extends { id?: string; name: string }>(props: {
  legend: string;
  owned: T[];
  carried: { id?: string }[];
  onCarry: (piece: T, take: boolean) => Promise<void>;
}) {
  const { legend, owned, carried, onCarry } = props;
  if (owned.length === 0) return null;
  return (
    <chakra.fieldset mt="3">
      <chakra.legend fontSize="14px" color="inkSoft">
        {legend}
      </chakra.legend>
      {owned.map((one) => {
        const comes = carried.some(({ id }) => id === one.id);
        return (
          <chakra.label key={one.id} display="inline-flex" gap="2" alignItems="center" minH="9" mr="4">
            <input type="checkbox" checked={comes} onChange={() => void onCarry(one, !comes)} />
            {one.name}
          </chakra.label>
        );
      })}
    </chakra.fieldset>
  );
}
