import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Fault, Schemas } from "../api/client";
import { control, Entry } from "../app/Field";
import { Action, Leads, Said, type Severity, StateMark } from "../app/parts";
import type { Sequence } from "./useSequence";

type Cut = Schemas["ShownCut"];

/** The sequence with one of its cuts moved to another place, or taken out. */
const moved = (sequence: Sequence, from: number, to: number | null): Sequence => {
  const cuts = [...(sequence.cuts ?? [])];
  const [cut] = cuts.splice(from, 1);
  if (cut && to !== null) cuts.splice(to, 0, cut);
  return { ...sequence, cuts };
};

const small = { minH: { base: "11", md: "8" }, px: "2", flexShrink: 0 } as const;

/** The cuts in their order: which part of its shot's film each is, how it joins, and from which light it comes. */
export function Cuts(props: {
  cuts: Cut[];
  matches: Schemas["MatchedCut"][];
  choices: Schemas["SequenceView"]["choices"];
  worst: Map<number, Severity>;
  faults: Fault[];
  chosen: number | null;
  onChoose: (at: number) => void;
  onType: (typed: Record<string, string>) => void;
  onTake: (change: (now: Sequence) => Sequence) => void;
}) {
  const { cuts, matches, choices, worst, faults, chosen, onChoose, onType, onTake } = props;
  const shift = (at: number, by: number) => {
    if (at + by < 0 || at + by >= cuts.length) return;
    onTake((now) => moved(now, at, at + by));
    onChoose(at + by);
  };
  return (
    <Box data-testid="cuts">
      {cuts.map((cut) => {
        const fault = faults.find((one) => one.path.startsWith(`cuts.${cut.at}`));
        return (
          <Box
            // A cut has no id of its own; its place tells two of one shot apart.
            key={`${cut.at} ${cut.shot}`}
            data-cut={cut.at}
            py="2.5"
            px="2"
            mx="-2"
            borderBottom="1px solid"
            borderColor="line"
            bg={chosen === cut.at ? "lane" : undefined}
            onFocus={() => onChoose(cut.at)}
            onKeyDown={(event) => {
              if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
              event.preventDefault();
              shift(cut.at, event.key === "ArrowUp" ? -1 : 1);
            }}
          >
            {cut.at > 0 && (
              <Flex gap="2" align="center" mb="1.5" fontSize="13px" color="inkSoft">
                joins by
                <chakra.select
                  {...control}
                  width="auto"
                  minH={{ base: "11", md: "7" }}
                  fontSize="13px"
                  cursor="pointer"
                  aria-label={`How ${cut.name} joins`}
                  value={cut.joins}
                  onChange={(event) => onType({ [`cuts.${cut.at}.joins`]: event.target.value })}
                >
                  {choices.joins?.map((one) => (
                    <option key={one}>{one}</option>
                  ))}
                </chakra.select>
              </Flex>
            )}
            <Matched match={matches.find((one) => one.at === cut.at)} />
            <Flex gap="3" align="baseline" wrap="wrap">
              <chakra.span className="figure" color="inkSoft" minW="6">
                {cut.at + 1}
              </chakra.span>
              <StateMark severity={worst.get(cut.at) ?? "good"} />
              <Leads to={`/shots/${cut.shot}`} fontSize="17px">
                {cut.name}
              </Leads>
              <chakra.span fontSize="14px" color="inkSoft">
                {[cut.place, cut.rate, cut.light].filter(Boolean).join(" · ")}
              </chakra.span>
              <Flex ml="auto" gap="1">
                <Action {...small} aria-label={`${cut.name}: earlier`} onClick={() => shift(cut.at, -1)}>
                  ↑
                </Action>
                <Action {...small} aria-label={`${cut.name}: later`} onClick={() => shift(cut.at, 1)}>
                  ↓
                </Action>
                <Action
                  {...small}
                  aria-label={`Leave ${cut.name} out`}
                  onClick={() => onTake((now) => moved(now, cut.at, null))}
                >
                  Leave out
                </Action>
              </Flex>
            </Flex>
            <Flex gap="2" align="center" mt="1.5" pl="9" fontSize="14px" color="inkSoft" wrap="wrap">
              from
              <Entry
                width="96px"
                minH={{ base: "11", md: "8" }}
                aria-label={`${cut.name} from`}
                value={cut.in_text}
                onTake={(text) => onType({ [`cuts.${cut.at}.in_s`]: text })}
              />
              to
              <Entry
                width="96px"
                minH={{ base: "11", md: "8" }}
                aria-label={`${cut.name} to`}
                placeholder="its end"
                value={cut.out_text}
                onTake={(text) => onType({ [`cuts.${cut.at}.out_s`]: text })}
              />
              <span>
                of {cut.whole || "—"}: <b>{cut.length}</b>, at {cut.begins}
              </span>
              <chakra.select
                {...control}
                width="auto"
                minH={{ base: "11", md: "8" }}
                ml={{ md: "auto" }}
                cursor="pointer"
                aria-label={`View of ${cut.name}`}
                value={cut.view_said ? (cut.view ?? "") : ""}
                onChange={(event) => onType({ [`cuts.${cut.at}.view`]: event.target.value })}
              >
                <option value="">
                  {cut.view && !cut.view_said ? `${cut.view}, as framed` : "as framed"}
                </option>
                {choices.view?.map((one) => (
                  <option key={one}>{one}</option>
                ))}
              </chakra.select>
            </Flex>
            {fault && (
              <Box pl="9" mt="1">
                <Said>{fault.allowed}</Said>
              </Box>
            )}
          </Box>
        );
      })}
    </Box>
  );
}

/** How a cut that should match is framed and filmed. */
function Matched({ match }: { match: Schemas["MatchedCut"] | undefined }) {
  if (!match) return null;
  return (
    <chakra.details mb="2" pl="9" fontSize="14px" data-testid="matched">
      <chakra.summary cursor="pointer" color="inkSoft" minH={{ base: "11", md: "7" }}>
        How it is made to match
      </chakra.summary>
      <chakra.p mt="1">
        <b>Framed like the one before:</b> {match.note.join("; ")}.
      </chakra.p>
      <chakra.ol mt="1" pl="5" css={{ listStyle: "decimal" }}>
        {match.steps.map((step) => (
          <chakra.li key={step.what} py="0.5">
            {step.what}{" "}
            <chakra.span className="figure" color="inkSoft">
              {step.takes}
            </chakra.span>
          </chakra.li>
        ))}
      </chakra.ol>
    </chakra.details>
  );
}
