import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useLocation } from "react-router";
import { api, told } from "../api/client";
import { Action, Leads, Panel, Said, StateMark } from "../app/parts";
import { ThemeChoice } from "../app/Shell";
import { useTitle } from "../app/title";

/** A code card as a phone opens it: what it orders, and one large button that does it, once. */
export default function Code() {
  const text = useLocation().hash.slice(1);
  useTitle("Code card");
  const read = useQuery({
    queryKey: ["code", text],
    queryFn: () => told(api.POST("/api/codes/read", { body: { text } })),
    retry: false,
  });
  const obey = useMutation({ mutationFn: () => told(api.POST("/api/codes", { body: { text } })) });
  return (
    <Box as="main" px="4" py="4" maxW="520px" mx="auto">
      <Flex justify="space-between" align="center" mb="4">
        <chakra.h1 fontSize="22px">
          <b>Code card</b>
        </chakra.h1>
        <ThemeChoice />
      </Flex>
      <Panel>
        {read.error && <Said>{read.error.message}</Said>}
        {read.data && (
          <>
            <Box fontSize="20px" fontWeight="700">
              {read.data.commands.join(", then ")}
            </Box>
            <Box color="inkSoft" mb="4">
              for {read.data.shot}
            </Box>
            {Object.entries(read.data.settings ?? {}).map(([dial, to]) => (
              <Flex key={dial} justify="space-between" py="1" borderBottom="1px solid" borderColor="line">
                <span>{dial.replaceAll("_", " ")}</span>
                <span className="figure">{to}</span>
              </Flex>
            ))}
            {!obey.data && (
              <Action
                strong
                mt="4"
                width="100%"
                minH="14"
                fontSize="20px"
                disabled={obey.isPending}
                onClick={() => obey.mutate()}
                data-testid="obey"
              >
                Do it
              </Action>
            )}
          </>
        )}
        {obey.error && (
          <Box mt="3">
            <Said>{obey.error.message}</Said>
          </Box>
        )}
        {obey.data && (
          <Box mt="3" data-testid="obeyed" role="status">
            {obey.data.told.map((line) => (
              <Flex key={line} gap="2" align="baseline" fontSize="17px">
                <StateMark severity={obey.data.how === "done" ? "good" : "fix"} />
                <span>{line}</span>
              </Flex>
            ))}
            {obey.data.run && <Leads to={`/runs/${obey.data.run}`}>Watch it</Leads>}
          </Box>
        )}
      </Panel>
    </Box>
  );
}
