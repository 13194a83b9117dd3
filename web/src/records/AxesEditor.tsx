import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Fault } from "../api/client";
import { Choice, control } from "../app/Field";
import { Action, Said } from "../app/parts";

const AXES = ["slide", "lift", "pan", "tilt", "roll", "zoom", "focus"] as const;
const PARTS = [
  ["low", "from"],
  ["high", "to"],
  ["speed", "fastest"],
  ["acceleration", "greatest acceleration"],
  ["step", "smallest step"],
  ["backlash", "play"],
  ["settle_s", "settles in"],
] as const;

/** One axis while it is edited: what the document has, and beside it what is read in its cells. */
interface Row {
  key: string;
  axis: Record<string, unknown>;
  words: Record<string, string>;
}

const Cell = chakra("td", { base: { pr: "1.5", py: "1" } });

/** The axes of a mover, one a row. A cell that nobody types in keeps its exact figure. */
export function AxesEditor(props: {
  axes: Record<string, unknown>[];
  shown: Record<string, string>;
  assumed: Record<string, string>;
  faults: Fault[];
  onChange: (axes: Record<string, unknown>[]) => void;
}) {
  const { axes, shown, assumed, faults, onChange } = props;
  const [rows, setRows] = useState<Row[]>(() =>
    axes.map((axis, i) => ({
      key: crypto.randomUUID(),
      axis,
      words: Object.fromEntries(PARTS.map(([part]) => [part, shown[`axes.${i}.${part}`] ?? ""])),
    })),
  );
  const put = (next: Row[]) => {
    setRows(next);
    onChange(next.map((row) => row.axis));
  };
  const change = (key: string, part: string, text: string) =>
    put(
      rows.map((row) => {
        if (row.key !== key) return row;
        const { [part]: _, ...others } = row.axis;
        // An empty cell is left to the server's own figure, or is refused where there is none.
        const axis = text.trim() ? { ...row.axis, [part]: text } : others;
        return { ...row, axis, words: { ...row.words, [part]: text } };
      }),
    );
  // A figure that nobody typed means another unit under another name, so it is shown as the bare number it is.
  const rename = (key: string, name: string) =>
    put(
      rows.map((row) => {
        if (row.key !== key) return row;
        const bare = PARTS.flatMap(([part]) =>
          typeof row.axis[part] === "number" ? [[part, String(row.axis[part])]] : [],
        );
        return { ...row, axis: { ...row.axis, name }, words: { ...row.words, ...Object.fromEntries(bare) } };
      }),
    );
  const add = () => {
    const name = AXES.find((one) => rows.every((row) => row.axis.name !== one)) ?? "slide";
    put([...rows, { key: crypto.randomUUID(), axis: { name }, words: {} }]);
  };
  const at = (i: number, part: string) => faults.find(({ path }) => path === `axes.${i}.${part}`);
  return (
    <>
      {rows.length > 0 && (
        <chakra.div overflowX="auto">
          <chakra.table fontSize="14px" aria-label="Axes">
            <thead>
              <tr>
                <chakra.th textAlign="left" fontWeight="400" color="inkSoft">
                  axis
                </chakra.th>
                {PARTS.map(([part, label]) => (
                  <chakra.th key={part} textAlign="left" fontWeight="400" color="inkSoft">
                    {label}
                  </chakra.th>
                ))}
                <th />
              </tr>
            </thead>
            <tbody>
              {rows.map((row, i) => (
                <tr key={row.key}>
                  <Cell minW="100px">
                    <Choice
                      aria-label={`Axis ${i + 1}`}
                      value={String(row.axis.name)}
                      options={AXES.map((name) => [name, name] as const)}
                      onChoose={(name) => rename(row.key, name)}
                    />
                  </Cell>
                  {PARTS.map(([part, label]) => (
                    <Cell key={part}>
                      <chakra.input
                        {...control}
                        className="figure"
                        minW="96px"
                        autoComplete="off"
                        name={`axes.${i}.${part}`}
                        aria-label={`${String(row.axis.name)}, ${label}`}
                        aria-invalid={at(i, part) ? true : undefined}
                        placeholder={
                          assumed[`axes.${part}`] ? `${assumed[`axes.${part}`]}, assumed` : undefined
                        }
                        _placeholder={{ color: "inkSoft", opacity: 1, fontStyle: "italic" }}
                        value={row.words[part] ?? ""}
                        onChange={(event) => change(row.key, part, event.target.value)}
                      />
                    </Cell>
                  ))}
                  <Cell>
                    <Action
                      aria-label={`Remove the axis ${String(row.axis.name)}`}
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
      {faults.map(({ path, allowed }) => {
        const found = path.match(/^axes\.(\d+)\.(\w+)/);
        const part = found && PARTS.find(([name]) => name === found[2])?.[1];
        return (
          <Said key={path}>
            {part ? `${String(rows[Number(found[1])]?.axis.name)}, ${part}: ${allowed}` : allowed}
          </Said>
        );
      })}
      <Action mt="1" onClick={add} disabled={rows.length >= AXES.length}>
        Add an axis
      </Action>
    </>
  );
}
