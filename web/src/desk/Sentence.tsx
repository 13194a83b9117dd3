import { Box, chakra } from "@chakra-ui/react";
import { memo, useEffect, useRef, useState } from "react";
import type { Plan } from "../api/client";
import { Said } from "../app/parts";
import type { DeskState } from "./useDesk";

type WordOf = Plan["sentence"][number][number];

interface SentenceProps {
  desk: DeskState;
  lines: WordOf[][];
  aside: WordOf[] | undefined;
}

// The desk is another object with every plan; of it the words need only what was refused.
const sameSentence = (a: SentenceProps, b: SentenceProps) =>
  a.lines === b.lines &&
  a.aside === b.aside &&
  a.desk.fault === b.desk.fault &&
  a.desk.brought === b.desk.brought &&
  a.desk.plan?.unfit === b.desk.plan?.unfit;

/** The shot in words, every number editable in place. */
export const Sentence = memo(function Sentence({ desk, lines, aside }: SentenceProps) {
  const notes = [...lines.flat(), ...(aside ?? [])].filter((word) => word.note);
  return (
    <Box as="section" aria-label="The shot in words" data-testid="sentence">
      {lines.map((line, at) => (
        <Line
          // The lines of the sentence never change places.
          // biome-ignore lint/suspicious/noArrayIndexKey: see above
          key={at}
          words={line}
          desk={desk}
          size={at === 0 ? "clamp(19px, 1.76vw, 27px)" : "clamp(17px, 1.46vw, 21px)"}
          tone={at === 0 ? "ink" : "inkSoft"}
        />
      ))}
      {aside && <Line words={aside} desk={desk} size="15.5px" tone="inkSoft" />}
      <Box minH="22px" fontSize="14px" color="inkSoft" aria-live="polite">
        {desk.fault && <Said>{desk.fault.message}</Said>}
        {!desk.fault && desk.brought.length > 0 && (
          <span data-testid="brought">
            Brought to the nearest that can be had: {desk.brought.map((one) => one.instead).join(", ")}.{" "}
          </span>
        )}
        {!desk.fault &&
          notes.map((word) => (
            <span key={word.field}>
              {word.label}: {word.note}.{" "}
            </span>
          ))}
      </Box>
    </Box>
  );
}, sameSentence);

/** Text, with its values editable in place. */
function Line(props: { words: WordOf[]; desk: DeskState; size: string; tone: string }) {
  const { words, desk, size, tone } = props;
  return (
    <chakra.p fontSize={{ base: "19px", md: size }} lineHeight={{ base: "1.7", md: "1.62" }} color={tone}>
      {words.map((word, place) =>
        word.field ? (
          <Value key={word.field} word={{ ...word, field: word.field }} desk={desk} />
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: stretches of text stand still
          <span key={place}>{word.text}</span>
        ),
      )}
    </chakra.p>
  );
}

/** One number of the sentence: a text field as wide as its text. */
export function Value({ word, desk }: { word: WordOf & { field: string }; desk: DeskState }) {
  const [typed, setTyped] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  // What stood here before: the plan of what is typed says the same as the field long before it is left.
  const stood = useRef(word.text);
  const shown = typed ?? word.text;
  const faulty = desk.fault?.field === word.field || desk.plan?.unfit.some((one) => one.field === word.field);
  const solved = word.state === "solved";
  const listed = word.choices.length > 0;

  useEffect(() => {
    if (typed === null && document.activeElement === input.current) input.current?.select();
  }, [typed]);

  const take = async () => {
    if (typed === null) return;
    if (typed.trim() === stood.current || typed.trim() === "") {
      setTyped(null);
      desk.forget();
    } else if (await desk.commit({ field: word.field, text: typed, free: false }))
      // What was typed on in the meantime is not taken yet.
      setTyped((now) => (now === typed ? null : now));
  };

  const common = {
    "aria-label": word.label,
    "data-field": word.field,
    "data-state": word.state,
    "aria-invalid": faulty || undefined,
    className: word.field.endsWith(".name") ? undefined : "figure",
    color: solved ? "accentText" : "ink",
    fontWeight: "700",
    bg: "transparent",
    border: "none",
    borderBottom: "2px",
    borderBottomStyle: solved ? "dashed" : "solid",
    borderBottomColor: faulty ? "fail" : solved ? "accent" : "line",
    borderRadius: "0",
    mx: "0.5",
    px: "0.5",
    lineHeight: "1.25",
    _hover: { bg: "card" },
    _focus: { bg: "card", outline: "2px solid", outlineColor: "accent", borderRadius: "4px" },
  } as const;

  if (listed) {
    return (
      <chakra.select
        {...common}
        fontFamily="body"
        value={word.text}
        cursor="pointer"
        css={{
          fieldSizing: "content",
          "& option": { background: "var(--chakra-colors-card)", color: "var(--chakra-colors-ink)" },
        }}
        onChange={(event) => void desk.commit({ field: word.field, text: event.target.value, free: false })}
      >
        {/* What stands may be on no menu any more; it is shown as it is until another is chosen. */}
        {!word.choices.includes(word.text) && <option>{word.text}</option>}
        {word.choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </chakra.select>
    );
  }
  return (
    <chakra.span whiteSpace="nowrap">
      <chakra.input
        {...common}
        ref={input}
        type="text"
        autoComplete="off"
        spellCheck={false}
        value={shown}
        width={`calc(${Math.max(shown.length, 2)}ch + 5px)`}
        title={
          solved ? `Solved: ${word.known}. Type to want it.` : `${word.label}: press = to have it solved`
        }
        onFocus={(event) => event.target.select()}
        onChange={(event) => {
          const text = event.target.value;
          if (text.endsWith("=") && word.field.startsWith("timing.")) {
            setTyped(null);
            void desk.commit({ field: word.field, free: true });
            return;
          }
          if (typed === null) stood.current = word.text;
          setTyped(text);
          if (text.trim()) desk.preview({ field: word.field, text, free: false });
        }}
        onBlur={() => void take()}
        onKeyDown={(event) => {
          if (event.key === "Enter") void take();
          else if (event.key === "Escape") {
            setTyped(null);
            desk.forget();
          } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
            event.preventDefault();
            const steps = (event.key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 5 : 1);
            setTyped(null);
            void desk.commit({ field: word.field, nudge: steps, free: false });
          }
        }}
      />
      {word.offers.length > 0 && (
        <chakra.select
          aria-label={`Pick: ${word.label.toLowerCase()}`}
          data-offers={word.field}
          value=""
          cursor="pointer"
          bg="transparent"
          color="inkSoft"
          border="none"
          fontSize="0.7em"
          width="1.6em"
          mr="1"
          css={{ "& option": { background: "var(--chakra-colors-card)", color: "var(--chakra-colors-ink)" } }}
          onChange={(event) => void desk.commit({ field: word.field, text: event.target.value, free: false })}
        >
          <option value="" hidden />
          {word.offers.map((one) => (
            <option key={one.text} value={one.text}>
              {one.told ? `${one.text}, ${one.told}` : one.text}
            </option>
          ))}
        </chakra.select>
      )}
      {solved && (
        <chakra.sup aria-hidden color="accentText" fontSize="0.55em" ml="-1">
          =
        </chakra.sup>
      )}
    </chakra.span>
  );
}
