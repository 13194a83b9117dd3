import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Panel, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { NOTHING, useAssumed } from "./assumed";
import { RecordEditor, type RecordField } from "./RecordEditor";
import { RecordList } from "./RecordList";

const FIELDS: RecordField[] = [
  { path: "name", label: "Name" },
  { path: "note", label: "Note" },
  { path: "latitude_deg", label: "Latitude", unit: "°, north positive", kind: "number" },
  { path: "longitude_deg", label: "Longitude", unit: "°, east positive", kind: "number" },
  { path: "elevation_m", label: "Elevation", kind: "measured" },
  { path: "time_zone", label: "Time zone", unit: "such as Europe/London" },
  { path: "sky_brightness", label: "Night sky", unit: "mag/arcsec², 21.7 is natural", kind: "number" },
  { path: "temperature_c", label: "Coldest expected", kind: "measured" },
  {
    path: "horizon",
    label: "Raised horizon",
    unit: "azimuth:height … such as 235:4 262:6",
    hint: "Straight from point to point; flat beyond the outermost ones, unless they go all round with no gap of 180° or more.",
    kind: "skyline",
  },
  { path: "window", label: "Open hours", unit: "such as 15:00-23:30 tide", kind: "hours" },
];

/** The places where shots are taken. */
export default function Places() {
  const queries = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const places = useQuery({ queryKey: ["places"], queryFn: () => told(api.GET("/api/places")) });
  const assumed = useAssumed();
  if (!places.data) return <Waiting>{places.error?.message}</Waiting>;
  const save = async (document: Record<string, unknown>, over: number | null, archived: boolean) => {
    const body = document as unknown as Schemas["Place"];
    const saved = await (over === null
      ? told(api.POST("/api/places", { body }))
      : told(
          api.PUT("/api/places/{id}", {
            params: { path: { id: String(body.id) }, query: { archived }, header: { "If-Match": over } },
            body,
          }),
        ));
    await queries.invalidateQueries({ queryKey: ["places"] });
    return { ...saved, document: saved.document as unknown as Record<string, unknown> };
  };
  return (
    <Shell title={<b>Places</b>} tab="Places" sub="Where the sky is computed for">
      <Panel>
        <RecordList
          rows={places.data}
          open={open}
          onOpen={setOpen}
          figures={({ document: place, shown }) =>
            `${place.latitude_deg.toFixed(3)}° ${place.longitude_deg.toFixed(3)}° · ${place.time_zone} · down to ${shown.temperature_c}`
          }
          add="Add a place"
          empty="Add the place where you film: its sky, clock and cold are computed from then on."
          editor={(row) => (
            <RecordEditor
              key={row?.version}
              record={row ? { ...row, document: row.document as unknown as Record<string, unknown> } : null}
              draftKey={row?.id ?? "new place"}
              assumed={assumed.data?.place ?? NOTHING}
              fresh={{
                id: crypto.randomUUID(),
                name: "",
                time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
              }}
              fields={FIELDS}
              onSave={save}
              onDone={() => setOpen(null)}
            />
          )}
        />
      </Panel>
    </Shell>
  );
}
