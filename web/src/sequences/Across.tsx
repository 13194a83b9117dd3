import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Schemas } from "../api/client";
import { Judged } from "../app/Judged";
import { Offer, StateMark } from "../app/parts";
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
        <Judged
          key={`${one.id} ${one.cut}`}
          one={{ ...one, id: one.id ?? "" }}
          data-remark={one.id}
          beside={
            one.cut != null && (
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
            )
          }
        >
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
        </Judged>
      ))}
    </Box>
  );
}
