import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Starters } from "../app/Starters";

/** Gear with usual figures beside that which is typed: quicker than an empty form. */
export function Usual() {
  const choices = useQuery({ queryKey: ["begin"], queryFn: () => told(api.GET("/api/begin")) });
  return (
    <chakra.details mb="4" data-testid="usual">
      <chakra.summary cursor="pointer" minH="9" color="inkSoft">
        Add gear with usual figures, and put your own in their place
      </chakra.summary>
      <Box mt="2">
        {choices.data && <Starters offered={[...choices.data.starters, ...choices.data.beside]} />}
      </Box>
    </chakra.details>
  );
}
