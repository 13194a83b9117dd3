import { chakra, Flex } from "@chakra-ui/react";
import type { Schemas, Shot } from "../api/client";
import { Choice, Entry } from "../app/Field";
import { Action } from "../app/parts";

type Thing = Schemas["Thing"];
type Move = NonNullable<Shot["move"]>;

const EMPTY: Move = {
  kind: "continuous",
  path: "legs",
  keys: [],
  repeat: "once",
  aim: null,
  things: [],
  blur_limit_px: 6,
  incline_deg: 0,
  on_stall: "end",
};

const FIGURES = [
  ["x_mm", "right, mm"],
  ["y_mm", "ahead, mm"],
  ["width_mm", "wide, mm"],
  ["height_mm", "high, mm"],
  ["base_mm", "foot above lens, mm"],
] as const;

/** What stands before the camera: subjects, foreground, background, with their places on the table. */
export function Things({ shot, onTake }: { shot: Shot; onTake: (shot: Shot) => void }) {
  const move: Move = shot.move ?? EMPTY;
  const things = move.things ?? [];
  const put = (next: Thing[], renamed?: [string, string]) => {
    const aim = move.aim;
    const named = aim && renamed && aim.thing === renamed[0] ? { ...aim, thing: renamed[1] } : aim;
    const kept = named && next.some((one) => one.name === named.thing) ? named : null;
    onTake({ ...shot, move: { ...move, things: next, aim: kept } });
  };
  const change = (at: number, part: Partial<Thing>) =>
    put(
      things.map((one, i) => (i === at ? { ...one, ...part } : one)),
      part.name ? [things[at]?.name ?? "", part.name] : undefined,
    );
  const free = () => {
    let n = things.length + 1;
    while (things.some((one) => one.name === `Thing ${n}`)) n += 1;
    return `Thing ${n}`;
  };
  return (
    <chakra.details mt="3">
      <chakra.summary cursor="pointer" fontWeight="600">
        What stands before the camera ({things.length})
      </chakra.summary>
      {things.map((thing, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a thing's name changes while it is typed
        <Flex key={at} gap="2" mt="2" align="end" wrap="wrap" fontSize="13px" color="inkSoft">
          <chakra.span w="150px">
            name
            <Entry aria-label="Name" value={thing.name} onTake={(name) => change(at, { name })} />
          </chakra.span>
          <chakra.span w="130px">
            is
            <Choice
              aria-label="Role"
              value={thing.role ?? "subject"}
              options={[
                ["subject", "subject"],
                ["foreground", "foreground"],
                ["background", "background"],
              ]}
              onChoose={(role) => change(at, { role: role as Thing["role"] })}
            />
          </chakra.span>
          {FIGURES.map(([name, label]) => (
            <chakra.span key={name} w="110px">
              {label}
              <Entry
                aria-label={`${thing.name}, ${label}`}
                inputMode="decimal"
                value={thing[name] ?? 0}
                onTake={(text) => {
                  const value = Number(text.replace(",", ".").replace("−", "-"));
                  if (Number.isFinite(value)) change(at, { [name]: value });
                }}
              />
            </chakra.span>
          ))}
          <Action onClick={() => put(things.filter((_, i) => i !== at))}>Remove</Action>
        </Flex>
      ))}
      <Action
        mt="2"
        onClick={() =>
          put([
            ...things,
            {
              name: free(),
              role: "subject",
              x_mm: 500,
              y_mm: 3000,
              width_mm: 600,
              height_mm: 1700,
              base_mm: -1200,
            },
          ])
        }
      >
        Add a thing
      </Action>
    </chakra.details>
  );
}
