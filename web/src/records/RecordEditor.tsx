import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Refused } from "../api/client";
import { Choice, control, Field, Fields } from "../app/Field";
import { Action, Said, StateMark } from "../app/parts";
import { AxesEditor } from "./AxesEditor";

/** One field of a record: where it stands in the document, and how it is called. */
export interface RecordField {
  path: string;
  label: string;
  unit?: string;
  /** What one should know of it, below the field. */
  hint?: string;
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
  /** Fields that nobody filled in; what stands there is assumed. */
  assumed?: string[];
}

type Document = Record<string, unknown>;

/** What is being edited and not saved yet, by record: it outlives its editor. */
interface Draft {
  document: Document;
  typed: Record<string, string>;
  over: number | null;
}

const drafts = new Map<string, Draft>();

/** Whether something was typed into a record, or a new one, that is not saved yet. */
export const isDrafted = (key: string) => drafts.has(key);

/** A document without what is only assumed of it. */
const asked = <T,>(saved: Saved<T>): Document =>
  Object.fromEntries(
    Object.entries(saved.document as Document).filter(([path]) => !saved.assumed?.includes(path)),
  );

interface EditorProps<T> {
  record: Saved<T> | null;
  /** Where the draft is kept. */
  draftKey: string;
  /** What stands in for fields that are left empty, in words. */
  assumed: Record<string, string>;
  fresh: T;
  fields: RecordField[];
  onSave: (document: T, over: number | null, archived: boolean) => Promise<Saved<T>>;
  onDone: () => void;
}

const written = (field: RecordField, value: unknown, shown: Record<string, string>): string => {
  if (value === undefined) return "";
  if (field.kind === "measured") return shown[field.path] ?? "";
  if (field.kind === "exact") return shown[field.path] ?? (value == null ? "" : String(value));
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
  if (field.kind === "measured") return clean;
  if (field.kind === "number") {
    const number = Number(clean.replace(/,(?=\d{3}(\D|$))/g, "").replace(",", "."));
    // What is no number is for the server to refuse.
    return Number.isNaN(number) ? clean : number;
  }
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

/** Edits one record: refused fields say why, a stale save offers both versions; what is typed outlives it. */
export function RecordEditor<T extends Document>(props: EditorProps<T>) {
  const { record, draftKey, assumed, fresh, fields, onSave, onDone } = props;
  const [draft, setDraft] = useState<Draft>(
    () =>
      drafts.get(draftKey) ?? {
        document: record ? asked(record) : fresh,
        typed: {},
        over: record?.version ?? null,
      },
  );
  const { document, typed, over } = draft;
  const [shown, setShown] = useState(record?.shown ?? {});
  const form = useRef<HTMLFormElement>(null);
  const change = (next: Draft) => {
    drafts.set(draftKey, next);
    setDraft(next);
  };
  const put = (path: string, value: unknown, text?: string) => {
    const { [path]: _, ...others } = document;
    // An empty field is left to what is assumed, or is refused where nothing is.
    const next = value === "" && path !== "note" ? others : { ...others, [path]: value };
    change({ document: next, typed: text === undefined ? typed : { ...typed, [path]: text }, over });
  };
  const done = () => {
    drafts.delete(draftKey);
    onDone();
  };
  const save = useMutation({
    mutationFn: (archived: boolean) => onSave(document as T, over, archived),
    onSuccess: done,
  });
  const refusal = save.error instanceof Refused ? save.error : null;
  const theirs = refusal?.status === 409 ? (refusal.current as Saved<T>) : null;
  const faults = theirs ? [] : (refusal?.faults ?? []);
  const faultOf = (path: string) =>
    faults.find((one) => one.path === path || one.path.startsWith(`${path}.`));
  const unplaced = refusal && !theirs && !fields.some(({ path }) => faultOf(path));
  useEffect(() => {
    if (refusal) form.current?.querySelector<HTMLElement>("[aria-invalid=true]")?.focus();
  }, [refusal]);
  return (
    <chakra.form
      ref={form}
      aria-label={String(document.name || "New")}
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
              change({ ...draft, over: theirs.version });
              save.reset();
            }}
          >
            Keep what is here
          </Action>
          <Action
            onClick={() => {
              change({ document: asked(theirs), typed: {}, over: theirs.version });
              setShown(theirs.shown ?? {});
              save.reset();
            }}
          >
            Take what is there
          </Action>
        </Flex>
      )}
      <Fields>
        {fields.map((field) => {
          const fault = faultOf(field.path)?.allowed;
          const blank = document[field.path] === undefined;
          if (field.kind === "check")
            return (
              <chakra.label key={field.path} display="flex" gap="2" alignItems="center" minH="9" mt="4">
                <input
                  type="checkbox"
                  name={field.path}
                  checked={blank ? assumed[field.path] === "yes" : Boolean(document[field.path])}
                  onChange={(event) => put(field.path, event.target.checked)}
                />
                {field.label}
                {blank && <Assumed />}
              </chakra.label>
            );
          if (field.kind === "choice")
            return (
              <Field key={field.path} label={field.label} unit={blank ? "assumed" : undefined} fault={fault}>
                {(id) => (
                  <Choice
                    id={id}
                    name={field.path}
                    value={String(document[field.path] ?? assumed[field.path])}
                    options={(field.choices ?? []).map((one) => [one, one] as const)}
                    onChoose={(value) => put(field.path, value)}
                  />
                )}
              </Field>
            );
          if (field.kind === "axes")
            return (
              <Box key={field.path} gridColumn="1 / -1" role="group" aria-label={field.label}>
                <AxesEditor
                  key={over}
                  axes={(document[field.path] as Document[] | undefined) ?? []}
                  shown={shown}
                  assumed={assumed}
                  faults={faults.filter(({ path }) => path.startsWith(field.path))}
                  onChange={(axes) => put(field.path, axes)}
                />
              </Box>
            );
          const stands = assumed[field.path];
          return (
            <Field key={field.path} label={field.label} unit={field.unit} hint={field.hint} fault={fault}>
              {(id) => (
                <chakra.input
                  id={id}
                  {...control}
                  className={field.kind && field.kind !== "text" ? "figure" : undefined}
                  name={field.path}
                  autoComplete="off"
                  aria-invalid={fault ? true : undefined}
                  placeholder={stands ? `${stands}, assumed` : undefined}
                  _placeholder={{ color: "inkSoft", opacity: 1, fontStyle: "italic" }}
                  value={typed[field.path] ?? written(field, document[field.path], shown)}
                  onChange={(event) => {
                    const text = event.target.value;
                    put(field.path, read(field, text), text);
                  }}
                />
              )}
            </Field>
          );
        })}
      </Fields>
      <Box minH="7" mt="2">
        {unplaced && <Said>{refusal.message}</Said>}
        {save.error && !refusal && <Said>{save.error.message}</Said>}
      </Box>
      <Flex gap="3" wrap="wrap">
        <Action strong type="submit" disabled={save.isPending}>
          Save
        </Action>
        <Action onClick={done}>Cancel</Action>
        {record && (
          <Action ml="auto" onClick={() => save.mutate(!record.archived)}>
            {record.archived ? "Use it again" : "Put it away"}
          </Action>
        )}
      </Flex>
    </chakra.form>
  );
}

function Assumed() {
  return (
    <chakra.span fontStyle="italic" fontSize="13px" color="inkSoft">
      assumed
    </chakra.span>
  );
}
