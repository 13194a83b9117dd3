import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Choice } from "../app/Field";
import { Action, Panel, Said } from "../app/parts";

type Name = Schemas["Drill"]["name"];

/** Faults of simulated gear, to practise what one sees and does. */
export function Drills({ rig, name }: { rig: string; name: string }) {
  const drills = useQuery({ queryKey: ["drills"], queryFn: () => told(api.GET("/api/drills")) });
  const [chosen, setChosen] = useState<Name>("camera silent");
  const begin = useMutation({
    mutationFn: () => told(api.POST("/api/drills", { body: { name: chosen, rig, by: "" } })),
  });
  const end = useMutation({
    mutationFn: () => told(api.DELETE("/api/drills", { params: { query: { rig } } })),
    onSuccess: () => begin.reset(),
  });
  const one = drills.data?.find((drill) => drill.name === chosen);
  const error = begin.error ?? end.error;
  return (
    <Panel title={name ? `Fault drill at ${name}` : "Fault drill"}>
      <chakra.p color="inkSoft" mb="3">
        Arm a shot on simulated gear, then switch a fault on and see what the run does and says. The run notes
        that it was a drill.
      </chakra.p>
      <Flex gap="3" wrap="wrap" align="center">
        <Choice
          width="220px"
          minH="11"
          aria-label="Fault"
          name="drill"
          value={chosen}
          options={(drills.data ?? []).map((drill) => [drill.name, drill.name] as const)}
          onChoose={(name) => setChosen(name as Name)}
        />
        <Action
          minH="11"
          strong
          disabled={begin.isPending}
          data-testid="drill"
          onClick={() => begin.mutate()}
        >
          Switch it on
        </Action>
        <Action minH="11" disabled={end.isPending} data-testid="drill-over" onClick={() => end.mutate()}>
          Mend everything
        </Action>
      </Flex>
      {one && <Box mt="2">{one.told}</Box>}
      <Box mt="2" fontWeight="700" role="status">
        {begin.data && `“${begin.data.name}” is on.`}
        {end.isSuccess && !begin.data && "Everything is mended."}
      </Box>
      {error && <Said>{error.message}</Said>}
    </Panel>
  );
}
