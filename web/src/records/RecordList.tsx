import { Box, chakra, Flex } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { control } from "../app/Field";
import { Action, Leads } from "../app/parts";
import type { Form, Saved } from "./forms";
import { isDrafted } from "./RecordEditor";

/** More than these are searched. */
const FEW = 6;

/** Records by name; the one that is open shows its editor in place. */
export function RecordList(props: {
  rows: Saved[];
  open: string | null;
  onOpen: (id: string | null) => void;
  form: Form;
  editor: (row: Saved | null) => ReactNode;
}) {
  const { open, onOpen, form, editor } = props;
  const [sought, setSought] = useState("");
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = props.rows.filter((row) => {
    const text = `${row.document.name} ${row.summary ?? ""} ${row.document.note ?? ""}`.toLowerCase();
    return row.id === open || words.every((word) => text.includes(word));
  });
  return (
    <Box>
      {props.rows.length > FEW && (
        <chakra.input
          {...control}
          maxW="280px"
          my="2"
          aria-label={`Search: ${form.title}`}
          placeholder="Search"
          value={sought}
          onChange={(event) => setSought(event.target.value)}
        />
      )}
      {props.rows.length === 0 && open !== "new" && (
        <Box color="inkSoft" py="2">
          {form.empty}
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
              <chakra.b _hover={{ color: "accentText" }}>{String(row.document.name)}</chakra.b>
              {row.archived && <chakra.span color="inkSoft">put away</chakra.span>}
              {open !== row.id && isDrafted(row.id) && (
                <chakra.span color="accentText" fontWeight="600">
                  not saved yet
                </chakra.span>
              )}
              <chakra.span className="figure" fontSize="14px" color="inkSoft">
                {row.summary}
              </chakra.span>
            </Flex>
            {Boolean(row.document.note) && (
              <chakra.span fontSize="14px" color="inkSoft">
                {String(row.document.note)}
              </chakra.span>
            )}
          </chakra.button>
          {open === row.id && (
            <Box pt="3">
              {editor(row)}
              <Leads to={`/shots?used=${row.id}`} fontSize="14px" fontWeight="400" color="inkSoft">
                Used in which shots?
              </Leads>
            </Box>
          )}
        </Box>
      ))}
      <Box pt="3">
        {open === "new" ? editor(null) : <Action onClick={() => onOpen("new")}>{form.add}</Action>}
      </Box>
    </Box>
  );
}
