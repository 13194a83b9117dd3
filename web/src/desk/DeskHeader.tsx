import { chakra, Flex } from "@chakra-ui/react";
import { memo } from "react";
import type { Plan } from "../api/client";
import { Entry } from "../app/Field";
import { Action, Leads, Quiet, type Severity, StateMark } from "../app/parts";
import { ThemeChoice } from "../app/Shell";
import type { DeskStep } from "../loom/Loom";
import type { Rates } from "../loom/MoveLayer";
import type { Sheet } from "./sheets/Sheets";
import type { DeskState } from "./useDesk";

export const STEPS: { step: DeskStep; name: string; key: string; sense: string }[] = [
  { step: "time", name: "Time", key: "1", sense: "interval, frames, lengths, start" },
  { step: "light", name: "Light", key: "2", sense: "how each frame is exposed" },
  { step: "move", name: "Move", key: "3", sense: "slider, pan, tilt and their keys" },
  { step: "feed", name: "Feed", key: "4", sense: "what it uses up: battery and card" },
  {
    step: "after",
    name: "Afterwards",
    key: "5",
    sense: "what is made of it: crops, shapes, pictures out of a sphere",
  },
];

const SAVING: Record<DeskState["saving"], string> = {
  saved: "saved",
  saving: "saving …",
  waiting: "not saved yet, trying again",
  refused: "not saved",
  elsewhere: "saved elsewhere",
};

interface HeaderProps {
  shotId: string;
  name: string;
  under: string;
  saving: DeskState["saving"];
  findings: Plan["findings"];
  walks: boolean;
  /** How many ways are kept beside it. */
  ways: number;
  step: DeskStep;
  onStep: (step: DeskStep) => void;
  onSheet: (sheet: Sheet) => void;
  onRun: () => void;
  onRename: (name: string) => void;
}

/** What shot this is, the steps of the job with their state, and the ways out. */
export const DeskHeader = memo(function DeskHeader(props: HeaderProps) {
  const { shotId, name, under, saving, findings, walks, ways, step, onStep, onSheet, onRun, onRename } =
    props;
  const state = (of: DeskStep): Severity =>
    findings.find((finding) => finding.step === of)?.severity ?? "good";
  return (
    <Flex as="header" align="baseline" gap="3" wrap="wrap" mb="2">
      <chakra.h1 fontSize="18px" fontWeight="700">
        <Entry
          aria-label="Name of the shot"
          data-testid="name"
          className=""
          value={name}
          onTake={onRename}
          width="auto"
          css={{ fieldSizing: "content" }}
          maxW="60vw"
          bg="transparent"
          border="none"
          px="0.5"
          minH="7"
          fontWeight="700"
          _hover={{ bg: "card" }}
        />
      </chakra.h1>
      <Quiet onClick={() => onSheet("details")} data-testid="open-details">
        {under}
      </Quiet>
      <chakra.span color="inkSoft" fontSize="13px" data-testid="saving" aria-live="polite">
        {SAVING[saving]}
      </chakra.span>
      <Flex as="nav" aria-label="Steps of the job" ml="auto" gap="1" align="center" wrap="wrap">
        {STEPS.map(({ step: one, name: said, sense }) => (
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
            aria-pressed={step === one}
            title={sense}
            bg={step === one ? "card" : "transparent"}
            fontWeight={step === one ? "700" : "400"}
            onClick={() => onStep(one)}
          >
            <StateMark severity={state(one)} />
            {one === "move" && walks ? "Walk" : said}
          </chakra.button>
        ))}
        <Action strong ml="1" onClick={onRun} data-testid="open-arm">
          Run
        </Action>
        <Leads
          to={`/shots/${shotId}/rehearse`}
          ml="2"
          fontWeight="400"
          color="inkSoft"
          data-testid="rehearse"
        >
          Rehearse
        </Leads>
        {ways > 0 && (
          <Leads to={`/shots/${shotId}/ways`} ml="1" fontWeight="400" color="inkSoft" data-testid="ways">
            {ways === 1 ? "1 way beside it" : `${ways} ways beside it`}
          </Leads>
        )}
        <Leads to={`/shots/${shotId}/rig-up`} ml="1" fontWeight="400" color="inkSoft" data-testid="rig-up">
          Rig up
        </Leads>
        <Leads to="/" ml="1" fontWeight="400" color="inkSoft">
          Tonight
        </Leads>
        <Leads to="/shots" mx="1" fontWeight="400" color="inkSoft">
          Shots
        </Leads>
        <ThemeChoice />
      </Flex>
    </Flex>
  );
});

const NEXT_RATES: Record<"none" | "speed" | "force", Rates> = { none: "speed", speed: "force", force: null };

/** What can be done in one step of the job, below the loom. */
export const StepActions = memo(function StepActions(props: {
  step: DeskStep;
  rates: Rates;
  moves: boolean;
  onRates: (rates: Rates) => void;
  onSheet: (sheet: Sheet) => void;
  onWish: () => void;
}) {
  const { step, rates, moves, onRates, onSheet, onWish } = props;
  return (
    <Flex gap="2" mt="1" mb="3" pl="100px" wrap="wrap">
      {step === "time" && (
        <Action onClick={() => onSheet("subject")} data-testid="open-subject">
          Interval from the subject …
        </Action>
      )}
      <Action onClick={() => onSheet("presets")} data-testid="open-presets">
        Presets …
      </Action>
      {(step === "feed" || step === "light") && (
        <Action onClick={() => onSheet("weather")} data-testid="open-weather">
          Weather by the hour …
        </Action>
      )}
      {(step === "move" || step === "light") && (
        <Action onClick={() => onSheet("stands")} data-testid="open-stands">
          When does it stand there …
        </Action>
      )}
      {step === "move" && moves && (
        <Action onClick={() => onRates(NEXT_RATES[rates ?? "none"])} data-testid="toggle-speed">
          {rates === null ? "With speeds" : rates === "speed" ? "With accelerations" : "Positions alone"}
        </Action>
      )}
      {step === "light" && (
        <>
          <Action onClick={onWish} data-testid="add-wish">
            Wish for more or less light at this frame
          </Action>
          <Action onClick={() => onSheet("reading")} data-testid="open-reading">
            Meter reading …
          </Action>
        </>
      )}
    </Flex>
  );
});
