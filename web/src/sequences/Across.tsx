import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Schemas } from "../api/client";
import { Known, Offer, StateMark } from "../app/parts";
import type { Sequence } from "./useSequence";

/** What is to be said of shots that are cut together, worst first, and what can be done about it. */
export function Across(props: {
  remarks: Schemas["Remark"][];
  cuts: number;
  onTake: (sequence: Sequence) => void;
  onChoose: (at: number) => void;
}) {
  const { remarks, cuts, onTake, onChoose } = props;
  return (
    <Box as="aside" aria-label="Across the cuts" data-testid="across">
      <chakra.h2 mb="2" color="inkSoft" fontWeight="600" fontSize="14px">
        Across the cuts
      </chakra.h2>
      {remarks.length === 0 && (
        <Flex bg="card" borderRadius="4px" p="4" gap="3" align="center">
          <StateMark severity={cuts ? "good" : "unseen"} size={12} />
          <span>{cuts ? "Nothing that Revani knows of stands against it." : "Nothing is cut yet."}</span>
        </Flex>
      )}
      {remarks.map((one) => (
        <chakra.article
          key={`${one.id} ${one.cut}`}
          data-remark={one.id}
          bg="card"
          borderRadius="4px"
          p="3"
          mb="2"
        >
          <Flex gap="2" align="baseline">
            <StateMark severity={one.severity} />
            <chakra.h3 fontWeight="700" lineHeight="1.3">
              {one.sentence}
            </chakra.h3>
            {one.cut != null && (
              <chakra.button
                type="button"
                className="figure"
                ml="auto"
                px="2"
                color="inkSoft"
                cursor="pointer"
                aria-label={`Show cut ${one.cut + 1}`}
                onClick={() => onChoose(one.cut ?? 0)}
              >
                {one.cut + 1}
              </chakra.button>
            )}
          </Flex>
          {one.figures && (
            <chakra.p mt="1" fontSize="14px" color="inkSoft">
              {one.figures}
            </chakra.p>
          )}
          <Known one={one} />
          {one.changes.map((change) => (
            <Offer
              key={change.id}
              data-change={change.id}
              display="block"
              width="100%"
              mt="2"
              label={change.label}
              told={change.price}
              onClick={() => onTake(change.sequence)}
            />
          ))}
        </chakra.article>
      ))}
    </Box>
  );
}
