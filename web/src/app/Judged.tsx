import { chakra, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Leads, StateMark } from "./parts";

const EDGE = { stop: "fail", fix: "fail", mind: "accent", good: "hold" } as const;

interface Judgement {
  id: string;
  severity: keyof typeof EDGE;
  sentence: string;
  figures?: string;
  rule?: string;
  turns?: string;
  source?: string;
}

/** A judgement: its sentence, its figures, how it is known; what can be done about it below. */
export function Judged(props: {
  one: Judgement;
  beside?: ReactNode;
  children: ReactNode;
  "data-finding"?: string;
  "data-remark"?: string;
}) {
  const { one, beside, children, ...rest } = props;
  return (
    <chakra.article
      bg="card"
      borderRadius="4px"
      borderLeft="5px solid"
      borderLeftColor={EDGE[one.severity]}
      p="3"
      pl="4"
      mb="2"
      {...rest}
    >
      <Flex gap="2" align="baseline">
        <StateMark severity={one.severity} />
        <chakra.h3 fontWeight="700" lineHeight="1.3">
          {one.sentence}
        </chakra.h3>
        {beside}
      </Flex>
      {one.figures && (
        <chakra.p mt="1" fontSize="14px" color="inkSoft">
          {one.figures}
        </chakra.p>
      )}
      <Known one={one} />
      {children}
    </chakra.article>
  );
}

/** How a judgement is known: its rule in a sentence, what would change the verdict, and where the rule is from. */
function Known({ one }: { one: Judgement }) {
  return (
    <chakra.details mt="1" fontSize="13px" color="inkSoft" data-testid="known">
      <chakra.summary cursor="pointer" minH="6">
        How this is known
      </chakra.summary>
      <chakra.p whiteSpace="pre-line">{one.rule}</chakra.p>
      {one.turns && <chakra.p mt="1">{one.turns}</chakra.p>}
      <chakra.p mt="1">
        <Leads to={`/handbook?rule=${one.id}`} fontWeight="400" color="inkSoft" textDecoration="underline">
          {one.source}
        </Leads>
      </chakra.p>
    </chakra.details>
  );
}
