import { Box, chakra, Flex } from "@chakra-ui/react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { DeskEdit, Plan } from "../api/client";
import { Lost } from "../app/Lost";
import { Action, StateMark, Waiting } from "../app/parts";
import { useTitle } from "../app/title";
import { nearest } from "../draw/scale";
import { type DeskStep, Loom } from "../loom/Loom";
import type { Rates } from "../loom/MoveLayer";
import { AfterPanel } from "./after/AfterPanel";
import { KeepBeside } from "./beside";
import { DeskHeader, STEPS, StepActions } from "./DeskHeader";
import { Findings } from "./Findings";
import { Feeding } from "./feed/Feeding";
import { Outputs } from "./feed/Outputs";
import { DialCard } from "./light/DialCard";
import { LightPanel } from "./light/LightPanel";
import { MovePanel } from "./move/MovePanel";
import { WalkPanel } from "./move/WalkPanel";
import { ReadOut } from "./ReadOut";
import { Sentence } from "./Sentence";
import { type Sheet, Sheets } from "./sheets/Sheets";
import { type DeskState, useDesk } from "./useDesk";

/** The shot desk: the sentence, the loom and the findings, always together. */
export default function Desk() {
  const { id = "" } = useParams();
  const [rates, setRates] = useState<Rates>(null);
  const desk = useDesk(id, rates !== null);
  const [step, setStep] = useState<DeskStep>("time");
  const [cursor, setCursor] = useState<number>(1);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const run = useCallback(() => setSheet("run"), []);
  const resolve = useCallback(() => setSheet("resolve"), []);
  useDeskKeys(desk, { step: setStep, sheet: setSheet, run });

  const { preview, commit, put } = desk;
  const rename = useCallback((name: string) => void put((shot) => ({ ...shot, name })), [put]);
  const edits = useMemo(
    () => ({ preview, commit: (edit: DeskEdit) => void commit(edit) }),
    [preview, commit],
  );

  useTitle(desk.shot?.name ?? "");
  // Led here to one value, one finds oneself in it.
  const [led] = useSearchParams();
  const field = led.get("field");
  const planned = desk.plan !== null;
  useEffect(() => {
    if (planned && field) document.querySelector<HTMLElement>(`[data-field="${CSS.escape(field)}"]`)?.focus();
  }, [planned, field]);
  const lanes = desk.plan?.lanes;
  const at = (desk.plan && cursorAt(desk.plan, cursor)) ?? lanes?.start_s ?? 0;
  const now = useRef(at);
  now.current = at;
  const wish = useCallback(
    () => edits.commit({ track: "light", action: "add", at_s: now.current, bias_stops: 0.5 }),
    [edits],
  );

  const { keepBeside } = desk;
  const beside = useMemo(() => ({ ways: `/shots/${id}/ways`, keep: keepBeside }), [id, keepBeside]);

  if (desk.missing) return <Lost what="There is no such shot." error={desk.missing} />;
  if (!desk.shot || !desk.plan) return desk.fault ? <Lost what={desk.fault.message} /> : <Waiting />;
  const { plan } = desk;

  return (
    <KeepBeside.Provider value={beside}>
      <Flex direction="column" minH="100vh" height={{ md: "100vh" }}>
        {/* What is read out at the foot stands below what scrolls, and so covers nothing of it. */}
        <Box flex="1" minH="0" overflowY={{ md: "auto" }} data-testid="desk">
          <Box px={{ base: "4", md: "6" }} pt="3" pb="4" maxW="1800px" width="100%" mx="auto">
            <DeskHeader
              shotId={plan.shot.id ?? ""}
              name={desk.shot.name}
              under={`${desk.shot.place.name} · ${desk.shot.kit.body.name} · ${plan.date} · times in ${plan.zone}`}
              saving={desk.saving}
              findings={plan.findings}
              walks={Boolean(plan.shot.walk)}
              ways={plan.shot.ways?.length ?? 0}
              step={step}
              onStep={setStep}
              onSheet={setSheet}
              onRun={run}
              onRename={rename}
            />

            {desk.theirs && (
              <Flex
                bg="failSoft"
                p="3"
                borderRadius="6px"
                gap="3"
                align="center"
                mb="3"
                wrap="wrap"
                role="alert"
              >
                <StateMark severity="fix" />
                <span>
                  This shot was saved elsewhere meanwhile; version {desk.theirs.version} stands there.
                </span>
                <Action onClick={() => desk.settle("mine")}>Keep what is here</Action>
                <Action onClick={() => desk.settle("theirs")}>Take what is there</Action>
              </Flex>
            )}

            <Sentence desk={desk} lines={plan.sentence} aside={plan.aside[step]} />
            {desk.brought.length > 0 && (
              <Box role="status" fontSize="14px" color="inkSoft" mt="1" data-testid="brought">
                Brought to the nearest that can be had: {desk.brought.map((one) => one.instead).join(", ")}.
              </Box>
            )}

            <Flex mt="2" gap="7" direction={{ base: "column", lg: "row" }} align="flex-start">
              <Box flex="1" minW="0" width="100%">
                <Loom
                  plan={plan}
                  step={step}
                  cursor={cursor}
                  onCursor={(number) => number && setCursor(number)}
                  edits={edits}
                  rates={rates}
                />
                <StepActions
                  step={step}
                  rates={rates}
                  moves={plan.lanes.axes.length > 0}
                  onRates={setRates}
                  onSheet={setSheet}
                  onWish={wish}
                />
                {step === "time" && <DialCard plan={plan} />}
                {step === "light" && <LightPanel plan={plan} number={cursor} onTake={desk.takeShot} />}
                {step === "after" && (
                  <AfterPanel desk={desk} plan={plan} number={cursor} at={at} edits={edits} />
                )}
                {step === "feed" && <Feeding desk={desk} plan={plan} />}
                {step === "feed" && <Outputs desk={desk} plan={plan} />}
                {step === "move" && plan.shot.walk && (
                  <WalkPanel desk={desk} plan={plan} number={cursor} edits={edits} />
                )}
                {step === "move" && !plan.shot.walk && (
                  <MovePanel desk={desk} plan={plan} number={cursor} at={at} edits={edits} />
                )}
              </Box>
              <Box width={{ base: "100%", lg: "290px" }} flexShrink={0}>
                <Findings findings={plan.findings} onFix={desk.take} onResolve={resolve} />
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
                  <Action onClick={() => setSheet("history")} data-testid="open-history">
                    Before
                  </Action>
                  <Action ml="auto" onClick={() => setSheet("keys")} aria-label="Shortcuts">
                    ?
                  </Action>
                </Flex>
              </Box>
            </Flex>
          </Box>
        </Box>
        <ReadOut plan={plan} number={cursor} />
        <Sheets desk={desk} shot={desk.shot} id={id} sheet={sheet} number={cursor} onSheet={setSheet} />
      </Flex>
    </KeepBeside.Provider>
  );
}

/** The instant of the drawn frame that is nearest to one. */
function cursorAt(plan: Plan, number: number): number | undefined {
  const frames = plan.lanes.frames as Record<string, number[]>;
  return frames.at_s?.[nearest(frames.number ?? [], number)];
}

interface DeskKeys {
  step: (step: DeskStep) => void;
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
        const found = STEPS.find(({ key }) => key === event.key);
        if (found) acts.current.step(found.step);
        else if (event.key === "?") acts.current.sheet("keys");
        else if (event.key === "k") acts.current.sheet("details");
        else if (event.key === "r") acts.current.run();
        else if (event.key === "f") acts.current.sheet("resolve");
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);
}
