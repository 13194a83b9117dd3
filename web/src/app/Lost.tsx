import { Box, Flex } from "@chakra-ui/react";
import { Refused } from "../api/client";
import { Leads, StateMark } from "./parts";
import { Shell } from "./Shell";

/** What an address that leads nowhere says, and where one can go on. */
export function Lost({ what, error }: { what: string; error?: Error | null }) {
  const there = !(error instanceof Refused) || error.status === 404 || error.status === 422;
  return (
    <Shell title={<b>Not here</b>} tab="Not here">
      <Flex gap="3" align="baseline" role="alert">
        <StateMark severity="fix" />
        <Box>
          <Box fontWeight="600">{there ? what : error?.message}</Box>
          <Box color="inkSoft" mt="2">
            {there && "The address may be mistyped, or what it led to is no more. "}
            Go on with <Leads to="/">Tonight</Leads>, the <Leads to="/shots">Shots</Leads> or the{" "}
            <Leads to="/logbook">Logbook</Leads>.
          </Box>
        </Box>
      </Flex>
    </Shell>
  );
}
