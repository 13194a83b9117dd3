import { Box } from "@chakra-ui/react";
import { Leads, Panel } from "../app/parts";

/** What is taken along on paper, or kept by the phone. */
export function Sheets({ shotId }: { shotId: string }) {
  const at = (rest: string) => `/api/shots/${shotId}/sheet${rest}`;
  return (
    <Panel title="Field sheet" data-testid="sheets">
      {(
        [
          ["A5, to fold and to read by a red lamp", ".pdf?size=a5"],
          ["A4", ".pdf?size=a4"],
          ["One page that the phone keeps", ".html"],
          ["Plain text", ".txt"],
        ] as const
      ).map(([name, rest]) => (
        <Box key={rest} minH={{ base: "11", md: "8" }} display="flex" alignItems="center">
          <Leads to={at(rest)} reloadDocument target="_blank">
            {name}
          </Leads>
        </Box>
      ))}
    </Panel>
  );
}
