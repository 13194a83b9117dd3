import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Fault } from "../api/client";
import { Choice, Typing } from "../app/Field";
import { Action, Said } from "../app/parts";
import type { Document, FormField } from "./forms";

/** One row while it is edited: what the document has, what stands in its cells, and what was typed into them. */
interface Row {
  key: string;
  document: Document;
  words: Record<string, string>;
  typed: Record<string, string>;
}

const Cell = chakra("td", { base: { pr: "1.5", py: "1" } });

interface TableProps {
  field: FormField;
  rows: Document[];
  shown: Record<string, string>;
  typed: Record<string, string>;
  faults: Fault[];
  onChange: (rows: Document[], typed: Record<string, string>) => void;
}

/** A list of things of one kind, one a row. A cell that nobody types in keeps its exact figure. */
export function TableEditor({ field, rows: given, shown, typed, faults, onChange }: TableProps) {
  const { path, columns, label } = field;
  const [rows, setRows] = useState<Row[]>(() =>
    given.map((document, i) => {
      const of = (texts: Record<string, string>) =>
        Object.fromEntries(
          columns.flatMap(({ path: part }) => {
            const text = texts[`${path}.${i}.${part}`];
            return text === undefined ? [] : [[part, text]];
          }),
        );
      return { key: crypto.randomUUID(), document, words: { ...of(shown), ...of(typed) }, typed: of(typed) };
    }),
  );
  // What tells rows apart: a choice of which each can be there once, or a name that is typed.
  const first = columns[0]?.drawn === "choice" ? columns[0] : undefined;
  const put = (next: Row[]) => {
    setRows(next);
    const cells = next.flatMap((row, i) =>
      Object.entries(row.typed).map(([part, text]) => [`${path}.${i}.${part}`, text]),
    );
    onChange(
      next.map((row) => row.document),
      Object.fromEntries(cells),
    );
  };
  const change = (key: string, part: string, text: string) =>
    put(
      rows.map((row) =>
        row.key === key
          ? { ...row, words: { ...row.words, [part]: text }, typed: { ...row.typed, [part]: text } }
          : row,
      ),
    );
  // A figure that nobody typed means another unit under another name, so it is shown as the bare number it is.
  const rename = (key: string, part: string, name: string) =>
    put(
      rows.map((row) => {
        if (row.key !== key) return row;
        const bare = columns.flatMap(({ path: at }) =>
          typeof row.document[at] === "number" && !(at in row.typed) ? [[at, String(row.document[at])]] : [],
        );
        return {
          ...row,
          document: { ...row.document, [part]: name },
          words: { ...row.words, [part]: name, ...Object.fromEntries(bare) },
        };
      }),
    );
  const add = () => {
    const free = first?.choices.find((one) => rows.every((row) => row.document[first.path] !== one));
    const document = first ? { [first.path]: free ?? first.choices[0] } : {};
    put([...rows, { key: crypto.randomUUID(), document, words: {}, typed: {} }]);
  };
  const nameOf = (row: Row, i: number) =>
    String((first ? row.document[first.path] : row.words[columns[0]?.path ?? ""]) || i + 1);
  return (
    <>
      {rows.length > 0 && (
        <chakra.div overflowX="auto">
          <chakra.table fontSize="14px" aria-label={label}>
            <thead>
              <tr>
                {columns.map((column) => (
                  <chakra.th
                    key={column.path}
                    textAlign="left"
                    verticalAlign="bottom"
                    pr="2"
                    fontWeight="400"
                    color="inkSoft"
                    title={column.hint}
                  >
                    {column.label}
                  </chakra.th>
                ))}
                <th />
              </tr>
            </thead>
            <tbody>
              {rows.map((row, i) => (
                <tr key={row.key}>
                  {columns.map((column) => {
                    const { path: part, drawn } = column;
                    const at = `${path}.${i}.${part}`;
                    if (drawn === "check")
                      return (
                        <Cell key={part} textAlign="center">
                          <input
                            type="checkbox"
                            name={at}
                            aria-label={`${nameOf(row, i)}, ${column.label}`}
                            checked={(row.words[part] ?? column.assumed) === "yes"}
                            onChange={(event) => change(row.key, part, event.target.checked ? "yes" : "no")}
                          />
                        </Cell>
                      );
                    if (drawn === "choice")
                      return (
                        <Cell key={part} minW="128px">
                          <Choice
                            name={at}
                            aria-label={`${label} ${i + 1}, ${column.label}`}
                            value={String(
                              column === first ? row.document[part] : (row.words[part] ?? column.assumed),
                            )}
                            options={column.choices.map((one) => [one, one] as const)}
                            onChoose={(name) =>
                              column === first ? rename(row.key, part, name) : change(row.key, part, name)
                            }
                          />
                        </Cell>
                      );
                    return (
                      <Cell key={part}>
                        <Typing
                          className="figure"
                          minW={drawn === "text" ? "150px" : "96px"}
                          autoComplete="off"
                          name={at}
                          aria-label={`${nameOf(row, i)}, ${column.label}`}
                          aria-invalid={faults.some((one) => one.path === at) ? true : undefined}
                          placeholder={column.assumed ? `${column.assumed}, assumed` : undefined}
                          _placeholder={{ color: "inkSoft", opacity: 1, fontStyle: "italic" }}
                          value={row.words[part] ?? ""}
                          onType={(text) => change(row.key, part, text)}
                        />
                      </Cell>
                    );
                  })}
                  <Cell>
                    <Action
                      aria-label={`Remove ${nameOf(row, i)}`}
                      onClick={() => put(rows.filter((one) => one.key !== row.key))}
                    >
                      Remove
                    </Action>
                  </Cell>
                </tr>
              ))}
            </tbody>
          </chakra.table>
        </chakra.div>
      )}
      {faults.map(({ path: at, allowed }) => {
        const [, i, part] = at.slice(path.length).split(".");
        const row = rows[Number(i)];
        const column = columns.find((one) => one.path === part);
        return (
          <Said key={at}>
            {row && column ? `${nameOf(row, Number(i))}, ${column.label}: ${allowed}` : allowed}
          </Said>
        );
      })}
      <Action mt="1" onClick={add} disabled={first && rows.length >= first.choices.length}>
        Add a row
      </Action>
    </>
  );
}
