import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, told } from "../api/client";
import { control } from "../app/Field";
import { Action, Leads, Panel, Said, type Severity, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Typed, word } from "../app/Word";
import { Across } from "./Across";
import { Cuts } from "./Cuts";
import { DayList } from "./DayList";
import { Skeins } from "./Skeins";
import { type SequenceActs, useSequence } from "./useSequence";

const WORST: Severity[] = ["stop", "fix", "mind", "good"];

/** One film made of shots: its cuts, what they gather, what is to be said across them, the day of filming it. */
export default function Sequence() {
  const { id = "" } = useParams();
  const acts = useSequence(id);
  const { view, fault, saving, missing, undo, redo } = acts;
  const [chosen, setChosen] = useState<number | null>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof Element && event.target.matches("input:not([type=file]), textarea");
      if (typing || !(event.ctrlKey || event.metaKey)) return;
      const key = event.key.toLowerCase();
      if (key === "z" && !event.shiftKey) undo();
      else if (key === "y" || key === "z") redo();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);
  if (!view) return <Waiting>{missing ?? fault?.message}</Waiting>;
  const worst = new Map<number, Severity>();
  for (const one of view.remarks)
    if (one.cut != null && WORST.indexOf(one.severity) < WORST.indexOf(worst.get(one.cut) ?? "good"))
      worst.set(one.cut, one.severity);
  const show = (at: number) => {
    setChosen(at);
    document.querySelector(`[data-cut="${at}"]`)?.scrollIntoView({ block: "nearest" });
  };
  return (
    <Shell
      title={<b>{view.sequence.name}</b>}
      tab={view.sequence.name}
      sub={saving ? "saving …" : fault ? "not saved" : "saved"}
    >
      <Sentence acts={acts} />
      {fault && <Fault acts={acts} />}
      <Panel mb="4">
        {view.skeins.length > 0 && (
          <Skeins skeins={view.skeins} days={view.days} chosen={chosen} onChoose={show} />
        )}
        {view.cuts.length === 0 && (
          <Box color="inkSoft">
            A film is made of several shots. Put some in: what they gather, whether they go together, and the
            day of filming them is drawn here.
          </Box>
        )}
      </Panel>
      <Grid templateColumns={{ base: "minmax(0, 1fr)", lg: "minmax(0, 8fr) minmax(0, 4fr)" }} gap="4">
        <Panel title="In this order">
          <Cuts
            cuts={view.cuts}
            matches={view.matches}
            choices={view.choices}
            worst={worst}
            faults={fault?.faults ?? []}
            chosen={chosen}
            onChoose={setChosen}
            onType={acts.type}
            onTake={acts.take}
          />
          <PutIn onPut={(shot) => acts.put([shot], view.cuts.length)} />
          <Files id={id} onRead={acts.read} />
        </Panel>
        <Across remarks={view.remarks} cuts={view.cuts.length} onTake={acts.take} onChoose={show} />
      </Grid>
      <DayList steps={view.day_list} twice={view.twice} />
      <Box mt="3">
        <Leads to={`/packing?sequence=${id}`}>What to bring for all of it</Leads>
      </Box>
    </Shell>
  );
}

/** What the film is for, in a sentence whose words are changed in place. */
function Sentence({ acts }: { acts: SequenceActs }) {
  const { view, type } = acts;
  if (!view) return null;
  const { sequence } = view;
  const choice = (label: string, path: string, value: string) => (
    <chakra.select
      {...word}
      aria-label={label}
      value={value}
      onChange={(event) => type({ [path]: event.target.value })}
    >
      {view.choices[path]?.map((one) => (
        <option key={one}>{one}</option>
      ))}
    </chakra.select>
  );
  const typed = (label: string, path: string, value: string, hint: string) => (
    <Typed label={label} value={value} hint={hint} figure onTake={(text) => type({ [path]: text })} />
  );
  return (
    <chakra.p
      fontSize={{ base: "19px", md: "23px" }}
      lineHeight="1.75"
      mb="4"
      data-testid="sequence-sentence"
      css={{ "& > *": { whiteSpace: "nowrap" } }}
    >
      <Typed
        label="Name"
        value={sequence.name}
        hint="a name"
        onTake={(text) => text.trim() && type({ name: text })}
      />
      is {choice("The film is for", "use", sequence.use ?? "")}, in
      {choice("Shape", "shape", sequence.shape ?? "")} at
      {typed("Rate", "fps", String(sequence.fps ?? ""), "30")} fps: {view.cuts.length}{" "}
      {view.cuts.length === 1 ? "cut" : "cuts"},{" "}
      <chakra.span className="figure" color="accentText" fontWeight="700" data-testid="length">
        {view.length}
      </chakra.span>{" "}
      of {typed("Wanted length", "wanted_s", view.wanted, "any length")} wanted. A shot takes
      {typed("Time to set up", "set_up_s", view.set_up, "20 min")} to set up, the way between places
      {typed("Pace of the way", "pace_m_s", view.pace, "1.2 m/s")}.
    </chakra.p>
  );
}

/** Why the last change was not taken, or not kept. */
function Fault({ acts }: { acts: SequenceActs }) {
  const { fault } = acts;
  if (!fault) return null;
  if (fault.status === 409)
    return (
      <Flex role="alert" bg="failSoft" borderRadius="5px" p="3" mb="3" gap="3" align="center" wrap="wrap">
        <span>Saved elsewhere meanwhile.</span>
        <Action onClick={() => acts.settle(true)}>Keep what is here</Action>
        <Action onClick={() => acts.settle(false)}>Take what is there</Action>
      </Flex>
    );
  const told = fault.faults.length ? fault.faults : [{ path: fault.path, allowed: fault.message }];
  return (
    <Box mb="3">
      {told
        .filter((one) => !one.path.startsWith("cuts."))
        .map((one) => (
          <Said key={one.path + one.allowed}>{one.path ? `${one.path}: ${one.allowed}` : one.allowed}</Said>
        ))}
    </Box>
  );
}

/** Shots to put in at the end, found as one types; Enter takes the first. */
function PutIn({ onPut }: { onPut: (shot: string) => void }) {
  const [sought, setSought] = useState("");
  const shots = useQuery({ queryKey: ["shots", "rows"], queryFn: () => told(api.GET("/api/shots/rows")) });
  const words = useDeferredValue(sought).toLowerCase().split(/\s+/).filter(Boolean);
  const found = (shots.data ?? [])
    .filter((row) => !row.archived)
    .filter((row) => {
      const text = `${row.name} ${row.date} ${row.place} ${row.body}`.toLowerCase();
      return words.every((one) => text.includes(one));
    })
    .slice(0, 8);
  return (
    <Box mt="4">
      <chakra.input
        {...control}
        maxW="360px"
        aria-label="Put in a shot"
        placeholder="Put in a shot: name, date, place …"
        value={sought}
        onChange={(event) => setSought(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") setSought("");
          if (event.key === "Enter" && found[0]) {
            onPut(found[0].id);
            setSought("");
          }
        }}
      />
      {shots.data?.length === 0 && (
        <Box mt="2" color="inkSoft">
          There is no shot yet: <Leads to="/begin">Begin</Leads> with what you want to film.
        </Box>
      )}
      <Flex gap="2" mt="2" wrap="wrap">
        {found.map((row) => (
          <Action
            key={row.id}
            minH={{ base: "11", md: "8" }}
            px="3"
            fontSize="14px"
            aria-label={`Put in ${row.name}`}
            onClick={() => onPut(row.id)}
          >
            {row.name}{" "}
            <chakra.span color="inkSoft" fontWeight="400" className="figure">
              {row.date.slice(5)}
            </chakra.span>
          </Action>
        ))}
      </Flex>
    </Box>
  );
}

const KINDS = [
  ["otio", "OpenTimelineIO"],
  ["csv", "CSV"],
  ["ics", "Day as calendar"],
] as const;

/** The sequence written out, and the cuts of a file read in. */
function Files({ id, onRead }: { id: string; onRead: (file: File) => void }) {
  return (
    <Flex mt="4" gap="4" align="center" wrap="wrap" fontSize="14px">
      {KINDS.map(([kind, name]) => (
        <chakra.a
          key={kind}
          href={`/api/sequences/${id}/file?kind=${kind}`}
          download
          textDecoration="underline"
        >
          {name}
        </chakra.a>
      ))}
      <chakra.label cursor="pointer">
        Read the cuts of a file{" "}
        <chakra.input
          type="file"
          accept=".otio,.csv,application/json,text/csv"
          color="inkSoft"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) onRead(file);
            event.target.value = "";
          }}
        />
      </chakra.label>
    </Flex>
  );
}
