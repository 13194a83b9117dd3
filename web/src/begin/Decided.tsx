import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import type { DeskEdit, Schemas } from "../api/client";
import { Action, Panel, Said, StateMark } from "../app/parts";

type Word = Schemas["Word"];

/** What was decided about a draft, each with its reason; a value that can be is typed over on the spot. */
export function Decided(props: {
  draft: Schemas["Drafted"];
  busy: boolean;
  saving: boolean;
  fault?: string;
  onEdit: (edit: DeskEdit) => void;
  onDesk: () => void;
}) {
  const { draft, busy, saving, fault, onEdit, onDesk } = props;
  return (
    <Panel title="What was decided, and why" aria-busy={busy} data-testid="decided">
      {draft.sentence.map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines stand still
        <chakra.p key={i} fontSize="15px" color="inkSoft" mb="1">
          {line.map((one) => one.text).join("")}
        </chakra.p>
      ))}
      <Box
        display="grid"
        gridTemplateColumns={{ base: "1fr", md: "auto minmax(0, 1fr)" }}
        columnGap="4"
        rowGap="2"
        mt="3"
        alignItems="baseline"
      >
        {draft.decided.map((one) => (
          <Row key={one.word?.field ?? one.why} word={one.word ?? null} why={one.why} onEdit={onEdit} />
        ))}
      </Box>
      <Flex gap="2" mt="4" direction="column">
        {[
          ...draft.fails.map((text) => ["fix", text] as const),
          ...draft.minds.map((text) => ["mind", text] as const),
        ].map(([severity, text]) => (
          <Flex key={text} gap="2" align="baseline" fontSize="14px">
            <StateMark severity={severity} />
            <span>{text}</span>
          </Flex>
        ))}
      </Flex>
      <Flex gap="3" mt="4" align="center" wrap="wrap">
        <Action strong disabled={saving} onClick={onDesk} data-testid="to-the-desk">
          To the desk
        </Action>
        {draft.fails.length > 0 && (
          <chakra.span fontSize="14px" color="inkSoft">
            There, “Make it work” lays out whole plans.
          </chakra.span>
        )}
        {fault && <Said>{fault}</Said>}
      </Flex>
    </Panel>
  );
}

function Row({ word, why, onEdit }: { word: Word | null; why: string; onEdit: (edit: DeskEdit) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  if (!word?.field)
    return (
      <chakra.span gridColumn="1 / -1" fontSize="15px">
        {why}
      </chakra.span>
    );
  const field = word.field;
  const take = () => {
    if (typed?.trim() && typed !== word.text) onEdit({ field, text: typed, free: false });
    setTyped(null);
  };
  const looks = {
    "aria-label": word.label,
    "data-field": field,
    bg: "transparent",
    fontWeight: "700",
    border: "none",
    borderBottom: "2px solid",
    borderColor: "line",
    color: word.state === "solved" ? "accentText" : "ink",
  } as const;
  return (
    <>
      <chakra.span whiteSpace="nowrap">
        <chakra.span color="inkSoft" fontSize="14px" mr="2">
          {word.label}
        </chakra.span>
        {word.choices.length > 0 ? (
          <chakra.select
            {...looks}
            value={word.text}
            css={{
              fieldSizing: "content",
              maxWidth: "20rem",
              "& option": { background: "var(--chakra-colors-card)", color: "var(--chakra-colors-ink)" },
            }}
            onChange={(event) => onEdit({ field, text: event.target.value, free: false })}
          >
            {!word.choices.includes(word.text) && <option>{word.text}</option>}
            {word.choices.map((choice) => (
              <option key={choice}>{choice}</option>
            ))}
          </chakra.select>
        ) : (
          <chakra.input
            {...looks}
            className="figure"
            autoComplete="off"
            value={typed ?? word.text}
            width={`${Math.max((typed ?? word.text).length, 3) + 1}ch`}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={take}
            onKeyDown={(event) => {
              if (event.key === "Enter") take();
              if (event.key === "Escape") setTyped(null);
            }}
          />
        )}
      </chakra.span>
      <chakra.span fontSize="14px">{why}</chakra.span>
    </>
  );
}
