import { Box, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../api/client";
import { download } from "../app/download";
import { Typing } from "../app/Field";
import { Action, Leads, Panel, Said } from "../app/parts";

function Minutes({ name, value, onTake }: { name: string; value: string; onTake: (text: string) => void }) {
  return (
    <Typing
      type="number"
      min={0}
      max={1440}
      width="76px"
      aria-label={name}
      value={value}
      onType={(text) => onTake(text || "0")}
    />
  );
}

/** What is taken along on paper, or kept by the phone. */
export function Sheets({ shotId, name }: { shotId: string; name: string }) {
  const set = useMutation({
    mutationFn: async (size: "a5" | "a4") => {
      const path = { id: shotId };
      const pdf = await told(
        api.GET("/api/shots/{id}/sheet.pdf", { params: { path, query: { size } }, parseAs: "blob" }),
      );
      download(pdf as Blob, `${name}, ${size.toUpperCase()}.pdf`, "application/pdf");
    },
  });
  const [setUp, setSetUp] = useState("40");
  const [way, setWay] = useState("30");
  const at = (rest: string) => `/api/shots/${shotId}/sheet.${rest}`;
  return (
    <Panel title="Field sheet" data-testid="sheets">
      <Box color="inkSoft" fontSize="14px" mb="2">
        The shot on paper, black on white for a red lamp, with its code cards.
      </Box>
      <Flex gap="2" wrap="wrap">
        <Action minH={{ base: "11", md: "9" }} disabled={set.isPending} onClick={() => set.mutate("a5")}>
          A5 as PDF
        </Action>
        <Action minH={{ base: "11", md: "9" }} disabled={set.isPending} onClick={() => set.mutate("a4")}>
          A4 as PDF
        </Action>
      </Flex>
      {set.error && <Said>{set.error.message}</Said>}
      {(
        [
          ["One page that the phone keeps", "html"],
          ["Plain text", "txt"],
        ] as const
      ).map(([said, rest]) => (
        <Box key={rest} minH={{ base: "11", md: "8" }} display="flex" alignItems="center">
          <Leads to={at(rest)} reloadDocument>
            {said}
          </Leads>
        </Box>
      ))}
      <Flex gap="2" align="center" wrap="wrap" mt="2" fontSize="14px">
        <span>Into the calendar, with alarms:</span>
        <Minutes name="Minutes to set up" value={setUp} onTake={setSetUp} />
        <span>min to set up,</span>
        <Minutes name="Minutes of way" value={way} onTake={setWay} />
        <span>min of way</span>
        <Leads
          to={`/api/shots/${shotId}/evening.ics?set_up_min=${setUp}&way_min=${way}`}
          reloadDocument
          download
          data-testid="evening"
        >
          The evening
        </Leads>
      </Flex>
    </Panel>
  );
}
