import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action } from "./parts";

interface Version {
  version: number;
  saved_at: string;
  changed: string[];
}

/** What something was before: each version, what the next save changed in words, and the way back. */
export function Versions<T extends Version>(props: { rows: T[] | undefined; onTake: (row: T) => void }) {
  const { rows, onTake } = props;
  return (
    <Box maxH="60vh" overflowY="auto">
      {rows?.length === 0 && <chakra.p color="inkSoft">It has not been changed since it was saved.</chakra.p>}
      {rows?.map((one) => (
        <Flex key={one.version} gap="3" py="2" borderBottom="1px solid" borderColor="line" align="baseline">
          <chakra.span className="figure" fontSize="14px" color="inkSoft" whiteSpace="nowrap">
            {one.saved_at.slice(0, 16).replace("T", " ")}
          </chakra.span>
          <chakra.span fontSize="14px">
            {one.changed.length ? `Then: ${one.changed.join("; ")}.` : "Then nothing that is told."}
          </chakra.span>
          <Action
            ml="auto"
            minH={{ base: "11", md: "8" }}
            flexShrink={0}
            aria-label={`Bring back version ${one.version}`}
            onClick={() => onTake(one)}
          >
            Bring it back
          </Action>
        </Flex>
      ))}
    </Box>
  );
}
