import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Delete } from "../app/Delete";
import { Choice, Typing } from "../app/Field";
import { Action, Leads, Said } from "../app/parts";
import { Versions } from "../app/Versions";
import type { Document, Form, Saved } from "./forms";
import { isDrafted } from "./RecordEditor";
import type { RecordActs } from "./useRecords";

/** More than these are searched. */
const FEW = 6;

const SORTS: Record<string, (a: Saved, b: Saved) => number> = {
  "by name": (a, b) => String(a.document.name).localeCompare(String(b.document.name)),
  "saved last first": (a, b) => (b.saved_at ?? "").localeCompare(a.saved_at ?? ""),
};

/** Records, searched and sorted where they are many; the one that is open shows its editor in place. */
export function RecordList(props: {
  rows: Saved[];
  open: string | null;
  onOpen: (id: string | null) => void;
  form: Form;
  acts: RecordActs;
  editor: (row: Saved | null) => ReactNode;
}) {
  const { open, onOpen, form, acts, editor } = props;
  const [sort, setSort] = useState("by name");
  const [sought, setSought] = useState("");
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = props.rows
    .filter((row) => {
      const text = `${row.document.name} ${row.summary ?? ""} ${row.document.note ?? ""}`.toLowerCase();
      return row.id === open || words.every((word) => text.includes(word));
    })
    .sort(SORTS[sort]);
  return (
    <Box>
      {props.rows.length > FEW && (
        <Flex gap="3" my="2" wrap="wrap">
          <Typing
            maxW="280px"
            aria-label={`Search: ${form.title}`}
            placeholder="Search"
            value={sought}
            onType={setSought}
          />
          <Choice
            width="auto"
            aria-label={`Order: ${form.title}`}
            value={sort}
            options={Object.keys(SORTS).map((one) => [one, one] as const)}
            onChoose={setSort}
          />
        </Flex>
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
            {(row.measured ?? []).map((one) => (
              <chakra.span key={one} display="block" fontSize="14px" color="hold">
                {one}
              </chakra.span>
            ))}
            {Boolean(row.document.note) && (
              <chakra.span fontSize="14px" color="inkSoft">
                {String(row.document.note)}
              </chakra.span>
            )}
          </chakra.button>
          {open === row.id && (
            <Box pt="3">
              {editor(row)}
              <Beside row={row} acts={acts} />
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

/** What else can be done with a record: where it is used, a copy, what it was before, its end. */
function Beside({ row, acts }: { row: Saved; acts: RecordActs }) {
  const [before, setBefore] = useState(false);
  const name = String(row.document.name);
  const small = { minH: { base: "11", md: "8" }, px: "3", fontSize: "14px" } as const;
  return (
    <Box mt="3">
      <Flex gap="3" wrap="wrap" align="center">
        <Leads to={`/shots?used=${row.id}`} fontSize="14px" fontWeight="400" color="inkSoft">
          Used in which shots?
        </Leads>
        <Action {...small} aria-label={`Copy ${name}`} onClick={() => acts.copy(row)}>
          Copy
        </Action>
        <Action {...small} aria-expanded={before} onClick={() => setBefore(!before)}>
          What it was before
        </Action>
        <Delete name={name} onDelete={() => acts.remove(row)} />
      </Flex>
      {acts.fault?.id === row.id && <Said>{acts.fault.said}</Said>}
      {before && <Before row={row} acts={acts} />}
    </Box>
  );
}

/** The versions of a record, newest first, each with what the next save changed, and the way back. */
function Before({ row, acts }: { row: Saved; acts: RecordActs }) {
  const history = useQuery({
    queryKey: ["versions", row.id, row.version],
    queryFn: () => acts.history(row.id),
  });
  const [fault, setFault] = useState("");
  return (
    <Box mt="2" data-testid="versions">
      <Versions
        rows={history.data}
        onTake={(one) =>
          acts
            .save(one.document as Document, row.version, row.archived)
            .catch((error: Error) => setFault(error.message))
        }
      />
      {(fault || history.error) && <Said>{fault || history.error?.message}</Said>}
    </Box>
  );
}

/** Whether those that are put away are listed, too. */
export function PutAway({ all, onAll }: { all: boolean; onAll: (all: boolean) => void }) {
  return (
    <chakra.label display="flex" gap="2" alignItems="center" mb="3" color="inkSoft">
      <input type="checkbox" checked={all} onChange={(event) => onAll(event.target.checked)} /> Show what is
      put away
    </chakra.label>
  );
}
