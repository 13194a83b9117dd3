import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { useParams } from "react-router";
import type { DeskEdit, Plan } from "../api/client";
import { Action, Leads, type Severity, StateMark, Waiting } from "../app/parts";
import { ThemeChoice } from "../app/Shell";
import { type DeskLens, Loom } from "../loom/Loom";
import type { Rates } from "../loom/MoveLayer";
import { nearest } from "../loom/scale";
import { ArmDialog } from "./ArmDialog";
import { Findings } from "./Findings";
import { LightPanel } from "./LightPanel";
import { MovePanel } from "./MovePanel";
import { ReadingDialog } from "./ReadingDialog";
import { ReadOut } from "./ReadOut";
import { Sentence } from "./Sentence";
import { Shortcuts } from "./Shortcuts";
import { ShotDetails } from "./ShotDetails";
import { SubjectDialog } from "./SubjectDialog";
import { type DeskState, useDesk } from "./useDesk";

const LENSES: { lens: DeskLens; name: string; key: string }[] = [
  { lens: "time", name: "Time", key: "1" },
  { lens: "light", name: "Light", key: "2" },
  { lens: "move", name: "Move", key: "3" },
  { lens: "feed", name: "Feed", key: "4" },
];

const NEXT_RATES: Record<"none" | "speed" | "force", Rates> = { none: "speed", speed: "force", force: null };

type Sheet = "details" | "keys" | "subject" | "reading";

const SAVING: Record<DeskState["saving"], string> = {
  saved: "saved",
  saving: "saving …",
  waiting: "not saved yet, trying again",
  refused: "not saved",
  elsewhere: "saved elsewhere",
};

/** The shot desk: the sentence, the loom and the findings, always together. */
export default function Desk() {
  const { id = "" } = useParams();
  const [rates, setRates] = useState<Rates>(null);
  const desk = useDesk(id, rates !== null);
  const [lens, setLens] = useState<DeskLens>("time");
  const [cursor, setCursor] = useState<number>(1);
  const [arming, setArming] = useState(false);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  useDeskKeys(desk, { lens: setLens, sheet: setSheet, run: () => setArming(true) });

  const { preview, commit } = desk;
  const edits = useMemo(
    () => ({ preview, commit: (edit: DeskEdit) => void commit(edit) }),
    [preview, commit],
  );

  if (desk.missing) return <Waiting>{desk.missing.message}</Waiting>;
  if (!desk.shot || !desk.plan) return <Waiting>{desk.fault ? desk.fault.message : undefined}</Waiting>;
  const { plan } = desk;
  const at = cursorAt(plan, cursor) ?? plan.lanes.start_s;
  const wish = () => edits.commit({ track: "light", action: "add", at_s: at, bias_stops: 0.5 });
  const state = (of: DeskLens): Severity => {
    const own = plan.findings.filter((finding) => finding.lens === of);
    return own[0]?.severity ?? "good";
  };

  return (
    <Flex direction="column" minH="100vh">
      <Box px={{ base: "4", md: "6" }} pt="3" pb="4" flex="1" maxW="1800px" width="100%" mx="auto">
        <Flex as="header" align="baseline" gap="3" wrap="wrap" mb="2">
          <chakra.h1 fontSize="18px" fontWeight="700">
            {desk.shot.name}
          </chakra.h1>
          <chakra.button
            type="button"
            color="inkSoft"
            cursor="pointer"
            textAlign="left"
            textDecoration="underline"
            textDecorationColor="line"
            textUnderlineOffset="4px"
            _hover={{ color: "ink" }}
            onClick={() => setSheet("details")}
            data-testid="open-details"
          >
            {desk.shot.place.name} · {desk.shot.kit.body.name} · {plan.date} · times in {plan.zone}
          </chakra.button>
          <chakra.span color="inkSoft" fontSize="13px" data-testid="saving" aria-live="polite">
            {SAVING[desk.saving]}
          </chakra.span>
          <Flex as="nav" aria-label="Steps of the job" ml="auto" gap="1" align="center" wrap="wrap">
            {LENSES.map(({ lens: one, name }) => (
              <chakra.button
                key={one}
                type="button"
                display="inline-flex"
                alignItems="center"
                gap="1.5"
                px="2.5"
                py="1"
                borderRadius="999px"
                cursor="pointer"
                aria-pressed={lens === one}
                bg={lens === one ? "card" : "transparent"}
                fontWeight={lens === one ? "700" : "400"}
                onClick={() => setLens(one)}
              >
                <StateMark severity={state(one)} />
                {name}
              </chakra.button>
            ))}
            <Action strong ml="1" onClick={() => setArming(true)} data-testid="open-arm">
              Run
            </Action>
            <Leads to="/" ml="2" fontWeight="400" color="inkSoft">
              Tonight
            </Leads>
            <Leads to="/shots" mx="1" fontWeight="400" color="inkSoft">
              Shots
            </Leads>
            <ThemeChoice />
          </Flex>
        </Flex>

        {desk.theirs && (
          <Flex bg="failSoft" p="3" borderRadius="6px" gap="3" align="center" mb="3" wrap="wrap" role="alert">
            <StateMark severity="fix" />
            <span>This shot was saved elsewhere meanwhile; version {desk.theirs.version} stands there.</span>
            <Action onClick={() => desk.settle("mine")}>Keep what is here</Action>
            <Action onClick={() => desk.settle("theirs")}>Take what is there</Action>
          </Flex>
        )}

        <Sentence desk={desk} plan={plan} step={lens} />

        <Flex mt="2" gap="7" direction={{ base: "column", lg: "row" }} align="flex-start">
          <Box flex="1" minW="0" width="100%">
            <Loom
              plan={plan}
              lens={lens}
              cursor={cursor}
              onCursor={(number) => number && setCursor(number)}
              edits={edits}
              rates={rates}
            />
            <Flex gap="2" mt="1" mb="3" pl="100px" wrap="wrap">
              {lens === "time" && (
                <Action onClick={() => setSheet("subject")} data-testid="open-subject">
                  Interval from the subject …
                </Action>
              )}
              {lens === "move" && plan.lanes.axes.length > 0 && (
                <Action onClick={() => setRates(NEXT_RATES[rates ?? "none"])} data-testid="toggle-speed">
                  {rates === null
                    ? "With speeds"
                    : rates === "speed"
                      ? "With accelerations"
                      : "Positions alone"}
                </Action>
              )}
              {lens === "light" && (
                <>
                  <Action onClick={wish} data-testid="add-wish">
                    Wish for more or less light at the plumb line
                  </Action>
                  <Action onClick={() => setSheet("reading")} data-testid="open-reading">
                    Meter reading …
                  </Action>
                </>
              )}
            </Flex>
            {lens === "light" && <LightPanel plan={plan} number={cursor} onTake={desk.takeShot} />}
            {lens === "move" && <MovePanel desk={desk} plan={plan} number={cursor} at={at} edits={edits} />}
          </Box>
          <Box width={{ base: "100%", lg: "290px" }} flexShrink={0}>
            <Findings findings={plan.findings} onFix={(shot) => desk.take(shot, plan.shot)} />
            <chakra.p mt="3" fontSize="14px" color="inkSoft" data-testid="rehearsal">
              {plan.rehearsal.told}
            </chakra.p>
            <Flex gap="2" mt="3">
              <Action onClick={desk.undo} disabled={!desk.canUndo} data-testid="undo">
                Undo
              </Action>
              <Action onClick={desk.redo} disabled={!desk.canRedo}>
                Redo
              </Action>
              <Action ml="auto" onClick={() => setSheet("keys")} aria-label="Shortcuts">
                ?
              </Action>
            </Flex>
          </Box>
        </Flex>
      </Box>
      <ReadOut plan={plan} number={cursor} />
      <ShotDetails desk={desk} shot={desk.shot} open={sheet === "details"} onClose={() => setSheet(null)} />
      <SubjectDialog
        shot={desk.shot}
        open={sheet === "subject"}
        onClose={() => setSheet(null)}
        onTake={desk.takeShot}
      />
      <ReadingDialog
        shot={desk.shot}
        open={sheet === "reading"}
        onClose={() => setSheet(null)}
        onTake={desk.takeShot}
      />
      <Shortcuts open={sheet === "keys"} onClose={() => setSheet(null)} />
      <ArmDialog shotId={id} open={arming} onClose={() => setArming(false)} />
    </Flex>
  );
}

/** The instant of the drawn frame that is nearest to one. */
function cursorAt(plan: Plan, number: number): number | undefined {
  const frames = plan.lanes.frames as Record<string, number[]>;
  return frames.at_s?.[nearest(frames.number ?? [], number)];
}

interface DeskKeys {
  lens: (lens: DeskLens) => void;
  sheet: (sheet: Sheet) => void;
  run: () => void;
}

function useDeskKeys(desk: DeskState, act: DeskKeys) {
  const { undo, redo } = desk;
  const acts = useRef(act);
  acts.current = act;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof Element && event.target.matches("input, select, textarea");
      const held = event.ctrlKey || event.metaKey;
      if (held && event.key.toLowerCase() === "z") {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      } else if (!typing && !held && !event.altKey && !document.querySelector("[role=dialog]")) {
        const found = LENSES.find(({ key }) => key === event.key);
        if (found) acts.current.lens(found.lens);
        else if (event.key === "?") acts.current.sheet("keys");
        else if (event.key === "k") acts.current.sheet("details");
        else if (event.key === "r") acts.current.run();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);
}
