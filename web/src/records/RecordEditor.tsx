import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Refused } from "../api/client";
import { Choice, control, Field, Fields } from "../app/Field";
import { Action, Said, StateMark } from "../app/parts";
import { AxesEditor } from "./AxesEditor";

/** One field of a record: where it stands in the document, and how it is called. */
export interface RecordField {
  path: string;
  label: string;
  unit?: string;
  kind?:
    | "text"
    | "number"
    | "measured"
    | "exact"
    | "check"
    | "skyline"
    | "hours"
    | "choice"
    | "marks"
    | "axes";
  choices?: readonly string[];
}

interface Saved<T> {
  id: string;
  version: number;
  archived: boolean;
  document: T;
  shown?: Record<string, string>;
}

type Document = Record<string, unknown>;

interface EditorProps<T> {
  record: Saved<T> | null;
  fresh: T;
  fields: RecordField[];
  onSave: (document: T, over: number | null, archived: boolean) => Promise<Saved<T>>;
  onDone: () => void;
}

const written = (field: RecordField, value: unknown, shown: Record<string, string>): string => {
  if (field.kind === "measured") return shown[field.path] ?? "";
  if (field.kind === "skyline")
    return ((value as { azimuth_deg: number; altitude_deg: number }[] | undefined) ?? [])
      .map((point) => `${point.azimuth_deg}:${point.altitude_deg}`)
      .join(" ");
  if (field.kind === "hours") {
    const hours = value as { opens: string; closes: string; reason: string } | null;
    return hours ? `${hours.opens}-${hours.closes} ${hours.reason}`.trim() : "";
  }
  if (field.kind === "marks")
    return ((value as { scale: number }[] | undefined) ?? [])
      .map((mark, i) => `${mark.scale}:${shown[`focus_marks.${i}.distance_m`]?.replaceAll(/[ ,]/g, "")}`)
      .join(" ");
  return value == null ? "" : String(value);
};

/** What was typed, as the document holds it; the server judges whether it can be. */
const read = (field: RecordField, text: string): unknown => {
  const clean = text.trim();
  if (field.kind === "measured") return clean === "" ? null : clean;
  if (field.kind === "number") return clean === "" ? null : Number(clean.replace(",", "."));
  if (field.kind === "skyline")
    return clean
      .split(/\s+/)
      .filter(Boolean)
      .map((pair) => {
        const [azimuth_deg, altitude_deg] = pair.split(":").map(Number);
        return { azimuth_deg, altitude_deg };
      });
  if (field.kind === "marks")
    return clean
      .split(/\s+/)
      .filter(Boolean)
      .map((pair) => {
        const [scale, distance_m] = pair.split(":");
        return { scale: Number(scale), distance_m };
      });
  if (field.kind === "hours") {
    const [hours = "", ...reason] = clean.split(/\s+/);
    const [opens = "", closes = ""] = hours.split("-");
    return clean === "" ? null : { opens, closes, reason: reason.join(" ") };
  }
  return field.kind === "exact" ? clean : text;
};

/** Edits one record: refused fields say why, a stale save offers both versions. */
export function RecordEditor<T extends Document>({ record, fresh, fields, onSave, onDone }: EditorProps<T>) {
  const [draft, setDraft] = useState<Document>(record?.document ?? fresh);
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [over, setOver] = useState(record?.version ?? null);
  const [shown, setShown] = useState(record?.shown ?? {});
  const save = useMutation({
    mutationFn: (archived: boolean) => onSave(draft as T, over, archived),
    onSuccess: onDone,
  });
  const refusal = save.error instanceof Refused ? save.error : null;
  const theirs = refusal?.status === 409 ? (refusal.current as Saved<T>) : null;
  const named = fields.some((field) => refusal?.path.startsWith(field.path));
  return (
    <chakra.form
      aria-label={String(draft.name || "New")}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(false);
      }}
    >
      {theirs && (
        <Flex role="alert" bg="failSoft" borderRadius="5px" p="3" mb="3" gap="3" align="center" wrap="wrap">
          <StateMark severity="fix" />
          <span>Saved elsewhere meanwhile, as “{String(theirs.document.name)}”.</span>
          <Action
            onClick={() => {
              setOver(theirs.version);
              save.reset();
            }}
          >
            Keep what is here
          </Action>
          <Action
            onClick={() => {
              setDraft(theirs.document);
              setShown(theirs.shown ?? {});
              setTyped({});
              setOver(theirs.version);
              save.reset();
            }}
          >
            Take what is there
          </Action>
        </Flex>
      )}
      <Fields>
        {fields.map((field) => {
          const fault = refusal?.path.startsWith(field.path) ? refusal.message : undefined;
          if (field.kind === "check")
            return (
              <chakra.label key={field.path} display="flex" gap="2" alignItems="center" minH="9" mt="4">
                <input
                  type="checkbox"
                  checked={Boolean(draft[field.path])}
                  onChange={(event) => setDraft({ ...draft, [field.path]: event.target.checked })}
                />
                {field.label}
              </chakra.label>
            );
          if (field.kind === "choice")
            return (
              <Field key={field.path} label={field.label} fault={fault}>
                {(id) => (
                  <Choice
                    id={id}
                    name={field.path}
                    value={String(draft[field.path] ?? field.choices?.[0])}
                    options={(field.choices ?? []).map((one) => [one, one] as const)}
                    onChoose={(value) => setDraft({ ...draft, [field.path]: value })}
                  />
                )}
              </Field>
            );
          if (field.kind === "axes")
            return (
              <Box key={field.path} gridColumn="1 / -1" role="group" aria-label={field.label}>
                <AxesEditor
                  key={over}
                  axes={(draft[field.path] as Document[] | undefined) ?? []}
                  shown={shown}
                  fault={fault ? { path: refusal?.path ?? "", message: fault } : undefined}
                  onChange={(axes) => setDraft({ ...draft, [field.path]: axes })}
                />
              </Box>
            );
          return (
            <Field key={field.path} label={field.label} unit={field.unit} fault={fault}>
              {(id) => (
                <chakra.input
                  id={id}
                  {...control}
                  className={field.kind && field.kind !== "text" ? "figure" : undefined}
                  name={field.path}
                  autoComplete="off"
                  aria-invalid={fault ? true : undefined}
                  value={typed[field.path] ?? written(field, draft[field.path], shown)}
                  onChange={(event) => {
                    const text = event.target.value;
                    setTyped({ ...typed, [field.path]: text });
                    setDraft({ ...draft, [field.path]: read(field, text) });
                  }}
                />
              )}
            </Field>
          );
        })}
      </Fields>
      <Box minH="7" mt="2">
        {refusal && !theirs && !named && <Said>{refusal.message}</Said>}
      </Box>
      <Flex gap="3" wrap="wrap">
        <Action strong type="submit" disabled={save.isPending}>
          Save
        </Action>
        <Action onClick={onDone}>Leave it</Action>
        {record && (
          <Action ml="auto" onClick={() => save.mutate(!record.archived)}>
            {record.archived ? "Take it out again" : "Put it away"}
          </Action>
        )}
      </Flex>
    </chakra.form>
  );
}
