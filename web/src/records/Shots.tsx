import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, Refused, type Schemas, type Shot, told } from "../api/client";
import { Delete } from "../app/Delete";
import { control } from "../app/Field";
import { Action, Leads, Panel, Said, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

type Row = Schemas["ListedShot"];
type Verdict = NonNullable<Row["verdict"]>;

/** So many are drawn at once; the rest come as they are asked for. */
const SHOWN = 40;

/** Everything that is wrong with what was brought in, each with its place in the file. */
const lines = (error: Error): string[] => {
  if (!(error instanceof Refused)) return [error.message];
  const faults = error.faults.length ? error.faults : [{ path: error.path, allowed: error.message }];
  return faults.slice(0, 12).map(({ path, allowed }) => (path ? `${path}: ${allowed}` : allowed));
};

const WRONG: Record<string, (verdict: Verdict) => boolean> = {
  "will fail": (one) => one.fails > 0,
  "to mind": (one) => one.fails === 0 && one.minds > 0,
  good: (one) => one.fails + one.minds === 0,
};
const ALL = "whatever is wrong";
const RANK = ["stop", "fix", "mind", "good"];

const WORST_FIRST = "worst first";
const NONE: Row[] = [];

const SORTS: Record<string, (a: Row, b: Row) => number> = {
  "by date": (a, b) => a.date.localeCompare(b.date) || a.name.localeCompare(b.name),
  "by name": (a, b) => a.name.localeCompare(b.name),
  "saved last first": (a, b) => b.saved_at.localeCompare(a.saved_at),
  [WORST_FIRST]: (a, b) => a.date.localeCompare(b.date) || a.name.localeCompare(b.name),
};

/** All shots, searched as one types; a new one begins with what one wants to film, is copied, or comes from a file. */
export default function Shots() {
  const go = useNavigate();
  const queries = useQueryClient();
  const [params, setParams] = useSearchParams();
  const [sought, setSought] = useState("");
  const [state, setState] = useState("in use");
  const [sort, setSort] = useState("by date");
  const [place, setPlace] = useState("every place");
  const [wrongness, setWrongness] = useState(ALL);
  const [shown, setShown] = useState(SHOWN);
  const search = useRef<HTMLInputElement>(null);
  const shots = useQuery({ queryKey: ["shots", "rows"], queryFn: () => told(api.GET("/api/shots/rows")) });
  const used = params.get("used");
  const words = useDeferredValue(sought);
  const [verdicts, setVerdicts] = useState(new Map<string, Verdict>());
  const verdictOf = useCallback(
    (row: Row) => row.verdict ?? verdicts.get(`${row.id} ${row.version}`),
    [verdicts],
  );
  const all = shots.data ?? NONE;
  const places = useMemo(() => [...new Set(all.map((row) => row.place))].sort(), [all]);
  const pieces = useKitNames(all);
  const before = useMemo(() => {
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    return all
      .filter((row) => (state === "put away" ? row.archived : !row.archived))
      .filter((row) => state !== "run" || row.runs > 0)
      .filter((row) => state !== "never run" || row.runs === 0)
      .filter((row) => place === "every place" || row.place === place)
      .filter((row) => !used || row.used.includes(used))
      .filter((row) => {
        const text = `${row.name} ${row.date} ${row.place} ${row.body} ${row.lens}`.toLowerCase();
        return wanted.every((word) => text.includes(word));
      })
      .sort(SORTS[sort]);
  }, [all, words, state, sort, used, place]);
  const rows = useMemo(() => {
    const kind = WRONG[wrongness];
    const kept = kind
      ? before.filter((row) => {
          const verdict = verdictOf(row);
          return verdict && kind(verdict);
        })
      : before;
    if (sort !== WORST_FIRST) return kept;
    const rank = (row: Row) => {
      const verdict = verdictOf(row);
      return verdict ? RANK.indexOf(verdict.severity ?? "good") : RANK.length;
    };
    return [...kept].sort((a, b) => rank(a) - rank(b));
  }, [before, wrongness, sort, verdictOf]);
  const visible = rows.slice(0, shown);
  // Those on screen are looked at; all of them, where they are chosen or put in order by what is wrong.
  const byVerdict = wrongness !== ALL || sort === WORST_FIRST;
  const unknown = (byVerdict ? before : visible).filter((row) => !verdictOf(row));
  const next = unknown.slice(0, SHOWN).map((row) => row.id);
  const worst = useQuery({
    queryKey: ["worst", next.join(), shots.dataUpdatedAt],
    queryFn: ({ signal }) => told(api.POST("/api/shots/worst", { body: next, signal })),
    enabled: next.length > 0,
    gcTime: 0,
  });
  useEffect(() => {
    if (!worst.data) return;
    const versions = new Map(all.map((row) => [row.id, row.version]));
    setVerdicts((known) => {
      const more = new Map(known);
      for (const one of worst.data) more.set(`${one.id} ${versions.get(one.id)}`, one);
      return more;
    });
  }, [worst.data, all]);
  const refresh = () => queries.invalidateQueries({ queryKey: ["shots"] });
  const whole = (id: string) => told(api.GET("/api/shots/{id}", { params: { path: { id } } }));
  const change = useMutation({
    mutationFn: async ({ row, archived, name }: Change) => {
      const saved = await whole(row.id);
      return told(
        api.PUT("/api/shots/{id}", {
          params: {
            path: { id: row.id },
            query: { archived: archived ?? row.archived },
            header: { "If-Match": saved.version },
          },
          body: name === undefined ? saved.document : { ...saved.document, name },
        }),
      );
    },
    onSuccess: refresh,
  });
  const remove = useMutation({
    mutationFn: (id: string) => told(api.DELETE("/api/shots/{id}", { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const copy = useMutation({
    mutationFn: async (id: string) => {
      const shot = (await whole(id)).document;
      return told(
        api.POST("/api/shots", {
          body: { ...shot, id: crypto.randomUUID(), name: `${shot.name}, again`.slice(0, 80) },
        }),
      );
    },
    onSuccess: (saved) => go(`/shots/${saved.id}`),
  });
  const bring = useMutation({
    mutationFn: async (file: File) => {
      let shot: Shot;
      try {
        shot = JSON.parse(await file.text());
      } catch {
        throw new Refused("", `${file.name} is not JSON, so it is no shot.`, 400);
      }
      const known = shots.data?.some((one) => one.id === shot.id);
      return told(api.POST("/api/shots", { body: known ? { ...shot, id: crypto.randomUUID() } : shot }));
    },
    onSuccess: (saved) => go(`/shots/${saved.id}`),
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof Element && event.target.matches("input, select, textarea");
      if (!typing && event.key === "/") {
        event.preventDefault();
        search.current?.focus();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const faults = [copy.error, bring.error, change.error, remove.error].filter((error) => error !== null);
  if (!shots.data) return <Waiting>{shots.error?.message}</Waiting>;
  return (
    <Shell title={<b>Shots</b>} tab="Shots">
      <Flex gap="3" mb="3" wrap="wrap" align="center">
        <chakra.input
          ref={search}
          {...control}
          width={{ base: "100%", sm: "280px" }}
          aria-label="Search the shots"
          placeholder="Search  ( / )"
          value={sought}
          onChange={(event) => {
            setSought(event.target.value);
            setShown(SHOWN);
          }}
          onKeyDown={(event) => {
            if (event.key === "Escape") setSought("");
            if (event.key === "Enter" && rows[0]) go(`/shots/${rows[0].id}`);
            if (event.key === "ArrowDown") document.querySelector<HTMLElement>("[data-row] a")?.focus();
          }}
        />
        <Pick
          label="Which"
          value={state}
          options={["in use", "run", "never run", "put away"]}
          onPick={setState}
        />
        <Pick label="Order" value={sort} options={Object.keys(SORTS)} onPick={setSort} />
        <Pick label="Place" value={place} options={["every place", ...places]} onPick={setPlace} />
        <Pick
          label="Kit"
          value={pieces.find((one) => one.id === used)?.name ?? "any kit"}
          options={["any kit", ...pieces.map((one) => one.name)]}
          onPick={(name) => {
            const piece = pieces.find((one) => one.name === name);
            setParams(piece ? { used: piece.id } : {});
          }}
        />
        {used && !pieces.some((one) => one.id === used) && (
          <Action onClick={() => setParams({})}>Used in: all again</Action>
        )}
        <Pick
          label="What is wrong"
          value={wrongness}
          options={[ALL, ...Object.keys(WRONG)]}
          onPick={setWrongness}
        />
        <chakra.span color="inkSoft" fontSize="14px" data-testid="how-many">
          {rows.length} of {shots.data.length}
          {byVerdict && unknown.length > 0 && `, ${unknown.length} still to look at`}
        </chakra.span>
        <Action strong ml="auto" onClick={() => go("/begin")} data-testid="new-shot">
          New shot
        </Action>
      </Flex>
      <Panel>
        {shots.data.length === 0 && (
          <Box color="inkSoft">
            No shot yet. <Leads to="/begin">Begin</Leads> with what you want to film.
          </Box>
        )}
        {shots.data.length > 0 && rows.length === 0 && <Box color="inkSoft">No shot is like that.</Box>}
        {visible.map((row) => (
          <Listed
            key={row.id}
            row={row}
            worst={verdictOf(row)}
            onCopy={copy.mutate}
            onChange={change.mutate}
            onDelete={remove.mutate}
          />
        ))}
        {rows.length > shown && (
          <Action mt="3" onClick={() => setShown(shown + SHOWN)} data-testid="more">
            {Math.min(SHOWN, rows.length - shown)} more
          </Action>
        )}
        <Flex pt="4" gap="4" align="center" wrap="wrap">
          <chakra.label cursor="pointer" fontWeight="700">
            Bring in a shot from a file{" "}
            <chakra.input
              type="file"
              accept=".json,application/json"
              fontWeight="400"
              fontSize="14px"
              color="inkSoft"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) bring.mutate(file);
                event.target.value = "";
              }}
            />
          </chakra.label>
          {faults
            .flatMap((error) => lines(error))
            .map((line) => (
              <Said key={line}>{line}</Said>
            ))}
        </Flex>
      </Panel>
    </Shell>
  );
}

/** The gear that some shot is made of, and places, by name; two of one name are told apart by a number. */
function useKitNames(rows: Row[]): { id: string; name: string }[] {
  const gear = useQuery({
    queryKey: ["gear", true],
    queryFn: () => told(api.GET("/api/gear", { params: { query: { archived: true } } })),
  });
  return useMemo(() => {
    const used = new Set(rows.flatMap((row) => row.used));
    const seen = new Map<string, number>();
    return (gear.data ?? [])
      .filter((one) => used.has(one.id))
      .map((one) => {
        const name = one.document.name;
        const times = (seen.get(name) ?? 0) + 1;
        seen.set(name, times);
        return { id: one.id, name: times > 1 ? `${name} (${times})` : name };
      })
      .sort((a, b) => a.name.localeCompare(b.name));
  }, [rows, gear.data]);
}

function Pick(props: { label: string; value: string; options: string[]; onPick: (value: string) => void }) {
  const { label, value, options, onPick } = props;
  return (
    <chakra.select
      {...control}
      width="auto"
      cursor="pointer"
      aria-label={label}
      value={value}
      onChange={(event) => onPick(event.target.value)}
    >
      {options.map((one) => (
        <option key={one}>{one}</option>
      ))}
    </chakra.select>
  );
}

interface Change {
  row: Row;
  archived?: boolean;
  name?: string;
}

/** One shot of the list: where it leads, what is wrong with it, and what can be done with it. */
const Listed = memo(function Listed(props: {
  row: Row;
  worst: Verdict | undefined;
  onCopy: (id: string) => void;
  onChange: (change: Change) => void;
  onDelete: (id: string) => void;
}) {
  const { row, worst, onCopy, onChange, onDelete } = props;
  const [naming, setNaming] = useState<string | null>(null);
  const take = () => {
    if (naming?.trim() && naming !== row.name) onChange({ row, name: naming.trim() });
    setNaming(null);
  };
  const said = worst
    ? [worst.fails && `${worst.fails} will fail`, worst.minds && `${worst.minds} to mind`]
    : [];
  return (
    <Flex
      py="2"
      gap="4"
      align="baseline"
      borderBottom="1px solid"
      borderColor="line"
      wrap="wrap"
      data-row={row.id}
      onKeyDown={(event) => {
        if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
        const next = event.key === "ArrowDown" ? "nextElementSibling" : "previousElementSibling";
        const link = event.currentTarget[next]?.querySelector<HTMLElement>("a");
        if (link) {
          event.preventDefault();
          link.focus();
        }
      }}
    >
      <StateMark severity={worst ? (worst.severity ?? "good") : "unseen"} />
      {naming === null ? (
        <Leads to={`/shots/${row.id}`} fontSize="17px">
          {row.name}
        </Leads>
      ) : (
        <chakra.input
          {...control}
          width="260px"
          autoFocus
          aria-label={`Name of ${row.name}`}
          maxLength={80}
          value={naming}
          onChange={(event) => setNaming(event.target.value)}
          onBlur={take}
          onKeyDown={(event) => {
            if (event.key === "Enter") take();
            if (event.key === "Escape") setNaming(null);
          }}
        />
      )}
      <chakra.span className="figure" color="inkSoft" fontSize="14px">
        {row.date}
      </chakra.span>
      <chakra.span color="inkSoft">
        {row.place} · {row.body} · {row.lens}
      </chakra.span>
      <chakra.span color="inkSoft" fontSize="14px">
        {[...said, row.runs > 0 && `run ${row.runs} ×`, row.archived && "put away"]
          .filter(Boolean)
          .join(" · ")}
      </chakra.span>
      <Flex ml="auto" gap="2" wrap="wrap" justify="flex-end">
        <Action
          minH={{ base: "11", md: "8" }}
          px="3"
          aria-label={`Rename ${row.name}`}
          onClick={() => setNaming(row.name)}
        >
          Rename
        </Action>
        <Action
          minH={{ base: "11", md: "8" }}
          px="3"
          aria-label={`Copy ${row.name}`}
          onClick={() => onCopy(row.id)}
        >
          Copy
        </Action>
        <Action
          minH={{ base: "11", md: "8" }}
          px="3"
          aria-label={`${row.archived ? "Use it again" : "Put it away"}: ${row.name}`}
          onClick={() => onChange({ row, archived: !row.archived })}
        >
          {row.archived ? "Use it again" : "Put it away"}
        </Action>
        {row.runs === 0 && <Delete name={row.name} onDelete={() => onDelete(row.id)} />}
      </Flex>
    </Flex>
  );
});
