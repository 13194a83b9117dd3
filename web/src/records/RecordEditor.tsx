import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Refused } from "../api/client";
import { Choice, Field, Fields, Typing } from "../app/Field";
import { Action, Said, StateMark } from "../app/parts";
import { asked, type Document, type Form, readForm, type Saved } from "./forms";
import { TableEditor } from "./TableEditor";

/** What is being edited and not saved yet: the document that was opened, and what was typed since, by path. */
interface Draft {
  document: Document;
  typed: Record<string, string>;
  over: number | null;
}

// By record: a draft outlives its editor.
const drafts = new Map<string, Draft>();

/** Whether something was typed into a record, or a new one, that is not saved yet. */
export const isDrafted = (key: string) => drafts.has(key);

interface EditorProps {
  record: Saved | null;
  form: Form;
  /** What a new one begins with. */
  fresh: Document;
  onSave: (document: Document, over: number | null, archived: boolean) => Promise<void>;
  onDone: () => void;
}

/** Edits one record: refused fields say why, a stale save offers both versions; what is typed outlives it. */
export function RecordEditor({ record, form, fresh, onSave, onDone }: EditorProps) {
  const draftKey = record?.id ?? `new ${form.kind}`;
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
  const element = useRef<HTMLFormElement>(null);
  const change = (next: Draft) => {
    drafts.set(draftKey, next);
    setDraft(next);
  };
  const type = (path: string, text: string) => change({ ...draft, typed: { ...typed, [path]: text } });
  const done = () => {
    drafts.delete(draftKey);
    onDone();
  };
  const save = useMutation({
    mutationFn: async (archived: boolean) =>
      onSave((await readForm(form.kind, document, typed)) as Document, over, archived),
    onSuccess: done,
  });
  const refusal = save.error instanceof Refused ? save.error : null;
  const theirs = refusal?.status === 409 ? (refusal.current as Saved) : null;
  const faults = theirs ? [] : (refusal?.faults ?? []);
  const faultOf = (path: string) =>
    faults.find((one) => one.path === path || one.path.startsWith(`${path}.`));
  const unplaced = refusal && !theirs && !form.fields.some(({ path }) => faultOf(path));
  useEffect(() => {
    if (refusal) element.current?.querySelector<HTMLElement>("[aria-invalid=true]")?.focus();
  }, [refusal]);
  return (
    <chakra.form
      ref={element}
      aria-label={typed.name || String(document.name ?? "New")}
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
        {form.fields.map((field) => {
          const { path, label, drawn, hint, choices, unit } = field;
          const fault = faultOf(path)?.allowed;
          const given = path in document || path in typed;
          // What stands in the field: as it was typed, else as it is stored, where somebody gave it.
          const text = typed[path] ?? (path in document ? (shown[path] ?? String(document[path] ?? "")) : "");
          if (drawn === "check")
            return (
              <Box key={path} mt="4">
                <chakra.label display="flex" gap="2" alignItems="center" minH="9">
                  <input
                    type="checkbox"
                    name={path}
                    checked={(text || field.assumed) === "yes"}
                    onChange={(event) => type(path, event.target.checked ? "yes" : "no")}
                  />
                  {label}
                  {!given && (
                    <chakra.span fontStyle="italic" fontSize="13px" color="inkSoft">
                      assumed
                    </chakra.span>
                  )}
                </chakra.label>
                {hint && <Hint>{hint}</Hint>}
                {fault && <Said>{fault}</Said>}
              </Box>
            );
          if (drawn === "choice")
            return (
              <Field key={path} label={label} unit={given ? "" : "assumed"} hint={hint} fault={fault}>
                {(id) => (
                  <Choice
                    id={id}
                    name={path}
                    value={text || field.assumed}
                    options={choices.map((one) => [one, one] as const)}
                    onChoose={(value) => type(path, value)}
                  />
                )}
              </Field>
            );
          if (drawn === "table")
            return (
              <Box key={path} gridColumn="1 / -1" role="group" aria-label={label}>
                <TableEditor
                  key={over}
                  field={field}
                  rows={(document[path] as Document[] | undefined) ?? []}
                  shown={shown}
                  typed={typed}
                  faults={faults.filter((one) => one.path.startsWith(path))}
                  onChange={(rows, cells) => {
                    const others = Object.entries(typed).filter(([at]) => !at.startsWith(`${path}.`));
                    change({
                      ...draft,
                      document: { ...document, [path]: rows },
                      typed: { ...Object.fromEntries(others), ...cells },
                    });
                  }}
                />
              </Box>
            );
          return (
            <Field key={path} label={label} unit={unit} hint={hint} fault={fault}>
              {(id) => (
                <Typing
                  id={id}
                  className={drawn === "figure" ? "figure" : undefined}
                  name={path}
                  autoComplete="off"
                  aria-invalid={fault ? true : undefined}
                  placeholder={field.assumed ? `${field.assumed}, assumed` : undefined}
                  _placeholder={{ color: "inkSoft", opacity: 1, fontStyle: "italic" }}
                  value={text}
                  onType={(text) => type(path, text)}
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

function Hint({ children }: { children: string }) {
  return (
    <Box fontSize="13px" color="inkSoft">
      {children}
    </Box>
  );
}
