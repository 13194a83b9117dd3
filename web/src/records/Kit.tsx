import { chakra } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { NOTHING, useAssumed } from "./assumed";
import { RecordEditor, type RecordField } from "./RecordEditor";
import { RecordList } from "./RecordList";

type Gear = Schemas["SavedGear"]["document"];
type Kind = Gear["kind"];

const FIELDS: Record<Kind, RecordField[]> = {
  body: [
    { path: "name", label: "Name" },
    { path: "note", label: "Note" },
    { path: "sensor_width_mm", label: "Sensor width", unit: "mm", kind: "number" },
    { path: "sensor_height_mm", label: "Sensor height", unit: "mm", kind: "number" },
    { path: "pixels_wide", label: "Picture width", unit: "px", kind: "number" },
    { path: "pixels_high", label: "Picture height", unit: "px", kind: "number" },
    { path: "iso_min", label: "Base ISO", kind: "number" },
    { path: "iso_max", label: "Highest ISO", kind: "number" },
    { path: "shutter_min_s", label: "Shortest shutter", unit: "s, such as 1/4000", kind: "exact" },
    { path: "manual_shutter_max_s", label: "Longest shutter, manual", unit: "s", kind: "exact" },
    { path: "automatic_shutter_max_s", label: "Longest shutter, automatic", unit: "s", kind: "exact" },
    {
      path: "automatic_order",
      label: "In automatic it raises first",
      kind: "choice",
      choices: ["ISO first", "shutter first"],
    },
    {
      path: "automatic_knee_s",
      label: "Shutter it holds while ISO rises",
      unit: "s, such as 1/60",
      kind: "exact",
    },
    { path: "metering_scatter_stops", label: "Its meter scatters by", unit: "stops", kind: "number" },
    { path: "clips_over_stops", label: "A frame is white from", unit: "stops over", kind: "number" },
    { path: "clips_under_stops", label: "A frame is black from", unit: "stops under", kind: "number" },
    { path: "minimum_interval_s", label: "Shortest interval", unit: "s", kind: "exact" },
    { path: "overhead_s", label: "Time to read a frame out", unit: "s", kind: "exact" },
    { path: "controller_tick_s", label: "Finest step of its trigger", unit: "s", kind: "exact" },
    { path: "bytes_per_frame", label: "Size of a frame", unit: "bytes", kind: "number" },
    { path: "buffer_frames", label: "Frames in its buffer", kind: "number" },
    { path: "battery_wh", label: "Battery", unit: "Wh", kind: "number" },
    { path: "battery_usable", label: "Usable part of it", unit: "0 to 1", kind: "number" },
    { path: "idle_w", label: "Draws while waiting", unit: "W", kind: "number" },
    { path: "frame_j", label: "Draws a frame", unit: "J", kind: "number" },
    { path: "weight_kg", label: "Weighs, battery in", kind: "measured" },
    { path: "film_mbps", label: "Bit rate of its film", unit: "Mbit/s", kind: "number" },
    { path: "clock_offset_s", label: "Its clock is ahead by", unit: "s", kind: "number" },
    { path: "bulb", label: "Can be held open for any time", kind: "check" },
    { path: "reports_recording", label: "Says whether it really records", kind: "check" },
  ],
  lens: [
    { path: "name", label: "Name" },
    { path: "note", label: "Note" },
    { path: "focal_length_min_mm", label: "Shortest focal length", unit: "mm", kind: "number" },
    { path: "focal_length_max_mm", label: "Longest focal length", unit: "mm", kind: "number" },
    { path: "aperture_widest", label: "Widest aperture", unit: "f/", kind: "number" },
    { path: "aperture_narrowest", label: "Narrowest aperture", unit: "f/", kind: "number" },
    { path: "aperture_widest_long", label: "Widest at its longest, if other", unit: "f/", kind: "number" },
    {
      path: "aperture_narrowest_long",
      label: "Narrowest at its longest, if other",
      unit: "f/",
      kind: "number",
    },
    { path: "weight_kg", label: "Weighs", kind: "measured" },
    { path: "closest_m", label: "Focuses from", kind: "measured" },
    { path: "focus_marks", label: "Focus marks, three or more", unit: "scale:distance …", kind: "marks" },
    { path: "electronic_aperture", label: "Aperture is driven electronically", kind: "check" },
  ],
  card: [
    { path: "name", label: "Name" },
    { path: "note", label: "Note" },
    { path: "capacity_gb", label: "Size, as sold", unit: "GB", kind: "number" },
    { path: "write_mb_s", label: "Writes at least", unit: "MB/s", kind: "number" },
  ],
  mover: [
    { path: "name", label: "Name" },
    { path: "note", label: "Note" },
    { path: "weight_kg", label: "Weighs", kind: "measured" },
    { path: "payload_kg", label: "Carries at most", kind: "measured" },
    { path: "incline_deg", label: "Climbs at most", unit: "°", kind: "number" },
    { path: "moving_w", label: "Draws while moving", unit: "W", kind: "number" },
    { path: "idle_w", label: "Draws while holding", unit: "W", kind: "number" },
    { path: "battery_wh", label: "Its own battery, if any", unit: "Wh", kind: "number" },
    { path: "axes", label: "Axes", kind: "axes" },
  ],
  filter: [
    { path: "name", label: "Name" },
    { path: "note", label: "Note" },
    { path: "stops", label: "Darkens by", unit: "stops; ND8 is 3", kind: "number" },
  ],
};

const KINDS: { kind: Kind; title: string; add: string; empty: string }[] = [
  {
    kind: "body",
    title: "Bodies",
    add: "Add a body",
    empty: "Add the camera that you leave out at night; its limits decide most findings.",
  },
  { kind: "lens", title: "Lenses", add: "Add a lens", empty: "Add the lens that sits on it." },
  {
    kind: "card",
    title: "Cards",
    add: "Add a card",
    empty: "Add a card, so that its end is known beforehand.",
  },
  {
    kind: "mover",
    title: "Movers",
    add: "Add a mover",
    empty: "Add the slider, lift or head that carries the camera; its limits decide which moves can be had.",
  },
  {
    kind: "filter",
    title: "Filters",
    add: "Add a filter",
    empty: "Add the neutral-density filters that you own; Revani says which one gives the wanted blur.",
  },
];

const figures = (gear: Gear, shown: Record<string, string>): string => {
  if (gear.kind === "body") return `ISO ${gear.iso_min}–${gear.iso_max} · ${gear.battery_wh} Wh`;
  if (gear.kind === "lens")
    return gear.focal_length_min_mm === gear.focal_length_max_mm
      ? `${gear.focal_length_min_mm} mm · f/${gear.aperture_widest}`
      : `${gear.focal_length_min_mm}–${gear.focal_length_max_mm} mm · f/${gear.aperture_widest}`;
  if (gear.kind === "mover")
    return `${gear.axes.map((axis) => axis.name).join(", ")} · carries ${shown.payload_kg}`;
  if (gear.kind === "filter") return `${gear.stops} stops`;
  return `${gear.capacity_gb} GB · ${gear.write_mb_s} MB/s`;
};

/** The gear that is owned, with the figures that findings are made of. */
export default function Kit() {
  const queries = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const [all, setAll] = useState(false);
  const gear = useQuery({
    queryKey: ["gear", all],
    queryFn: () => told(api.GET("/api/gear", { params: { query: { archived: all } } })),
  });
  const assumed = useAssumed();
  if (!gear.data) return <Waiting>{gear.error?.message}</Waiting>;
  const save =
    (kind: Kind) => async (document: Record<string, unknown>, over: number | null, archived: boolean) => {
      const body = { ...document, kind } as Gear;
      const saved = await (over === null
        ? told(api.POST("/api/gear", { body }))
        : told(
            api.PUT("/api/gear/{id}", {
              params: { path: { id: String(body.id) }, query: { archived }, header: { "If-Match": over } },
              body,
            }),
          ));
      await queries.invalidateQueries({ queryKey: ["gear"] });
      return { ...saved, document: saved.document as Record<string, unknown> };
    };
  return (
    <Shell title={<b>Kit</b>} tab="Kit" sub="What is owned, with the figures that findings are made of">
      <chakra.label display="flex" gap="2" alignItems="center" mb="3" color="inkSoft">
        <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} /> Show what
        is put away
      </chakra.label>
      {KINDS.map(({ kind, title, add, empty }) => (
        <Panel key={kind} title={title} mb="4">
          <RecordList
            rows={gear.data.filter((one) => one.document.kind === kind)}
            open={open === `new ${kind}` ? "new" : open}
            onOpen={(id) => setOpen(id === "new" ? `new ${kind}` : id)}
            figures={(row) => figures(row.document, row.shown)}
            add={add}
            empty={empty}
            editor={(row) => (
              <RecordEditor
                key={row?.version}
                record={row ? { ...row, document: row.document as Record<string, unknown> } : null}
                draftKey={row?.id ?? `new ${kind}`}
                assumed={assumed.data?.[kind] ?? NOTHING}
                fresh={{ id: crypto.randomUUID(), name: "" }}
                fields={FIELDS[kind]}
                onSave={save(kind)}
                onDone={() => setOpen(null)}
              />
            )}
          />
        </Panel>
      ))}
    </Shell>
  );
}
