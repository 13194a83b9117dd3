import { Box, chakra, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Action } from "../app/parts";
import { isDrafted } from "./RecordEditor";

interface Row {
  id: string;
  archived: boolean;
  document: { name: string; note: string };
}

/** Records by name; the one that is open shows its editor in place. */
export function RecordList<R extends Row>(props: {
  rows: R[];
  open: string | null;
  onOpen: (id: string | null) => void;
  figures: (row: R) => string;
  editor: (row: R | null) => ReactNode;
  empty: string;
  add: string;
}) {
  const { rows, open, onOpen, figures, editor, empty, add } = props;
  return (
    <Box>
      {rows.length === 0 && open !== "new" && (
        <Box color="inkSoft" py="2">
          {empty}
        </Box>
      )}
      {rows.map((row) => (
        <Box key={row.id} py="2.5" borderBottom="1px solid" borderColor="line">
          <chakra.button
            type="button"
            width="100%"
            textAlign="left"
            cursor="pointer"
            minH="8"
            aria-expanded={open === row.id}
            onClick={() => onOpen(open === row.id ? null : row.id)}
          >
            <Flex gap="4" align="baseline" wrap="wrap">
              <chakra.b _hover={{ color: "accentText" }}>{row.document.name}</chakra.b>
              {row.archived && <chakra.span color="inkSoft">put away</chakra.span>}
              {open !== row.id && isDrafted(row.id) && (
                <chakra.span color="accentText" fontWeight="600">
                  not saved yet
                </chakra.span>
              )}
              <chakra.span className="figure" fontSize="14px" color="inkSoft">
                {figures(row)}
              </chakra.span>
            </Flex>
            {row.document.note && (
              <chakra.span fontSize="14px" color="inkSoft">
                {row.document.note}
              </chakra.span>
            )}
          </chakra.button>
          {open === row.id && <Box pt="3">{editor(row)}</Box>}
        </Box>
      ))}
      <Box pt="3">{open === "new" ? editor(null) : <Action onClick={() => onOpen("new")}>{add}</Action>}</Box>
    </Box>
  );
}
