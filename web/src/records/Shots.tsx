import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Shot, told } from "../api/client";
import { Action, Leads, Panel, Said, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

/** All shots, and a new one made from an old. */
export default function Shots() {
  const go = useNavigate();
  const shots = useQuery({ queryKey: ["shots"], queryFn: () => told(api.GET("/api/shots")) });
  const copy = useMutation({
    mutationFn: (shot: Shot) =>
      told(
        api.POST("/api/shots", {
          body: { ...shot, id: crypto.randomUUID(), name: `${shot.name}, again`.slice(0, 80) },
        }),
      ),
    onSuccess: (saved) => go(`/shots/${saved.id}`),
  });
  if (!shots.data) return <Waiting>{shots.error?.message}</Waiting>;
  return (
    <Shell title={<b>Shots</b>}>
      <Panel>
        {shots.data.length === 0 && <Box color="inkSoft">No shot yet.</Box>}
        {shots.data.map(({ id, document: shot }) => (
          <Flex
            key={id}
            py="3"
            gap="4"
            align="baseline"
            borderBottom="1px solid"
            borderColor="line"
            wrap="wrap"
          >
            <Leads to={`/shots/${id}`} fontSize="17px">
              {shot.name}
            </Leads>
            <chakra.span className="figure" color="inkSoft" fontSize="14px">
              {shot.date}
            </chakra.span>
            <chakra.span color="inkSoft">
              {shot.place.name} · {shot.kit.body.name} · {shot.kit.lens.name}
            </chakra.span>
            <Action ml="auto" onClick={() => copy.mutate(shot)}>
              Copy
            </Action>
          </Flex>
        ))}
        {copy.error && <Said>{copy.error.message}</Said>}
      </Panel>
    </Shell>
  );
}
