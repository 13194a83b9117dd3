import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, Refused, type Shot, told } from "../api/client";
import { Action, Leads, Panel, Said, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

/** Everything that is wrong with what was brought in, each with its place in the file. */
const lines = (error: Error): string[] => {
  if (!(error instanceof Refused)) return [error.message];
  const faults = error.faults.length ? error.faults : [{ path: error.path, allowed: error.message }];
  return faults.slice(0, 12).map(({ path, allowed }) => (path ? `${path}: ${allowed}` : allowed));
};

/** All shots; a new one begins with what one wants to film, is copied, or comes from a file. */
export default function Shots() {
  const go = useNavigate();
  const [all, setAll] = useState(false);
  const queries = useQueryClient();
  const shots = useQuery({
    queryKey: ["shots", all],
    queryFn: () => told(api.GET("/api/shots", { params: { query: { archived: all } } })),
  });
  const away = useMutation({
    mutationFn: (row: { id: string; version: number; archived: boolean; document: Shot }) =>
      told(
        api.PUT("/api/shots/{id}", {
          params: {
            path: { id: row.id },
            query: { archived: !row.archived },
            header: { "If-Match": row.version },
          },
          body: row.document,
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["shots"] }),
  });
  const copy = useMutation({
    mutationFn: (shot: Shot) =>
      told(
        api.POST("/api/shots", {
          body: { ...shot, id: crypto.randomUUID(), name: `${shot.name}, again`.slice(0, 80) },
        }),
      ),
    onSuccess: (saved) => go(`/shots/${saved.id}`),
  });
  const bring = useMutation({
    mutationFn: async (file: File) => {
      let shot: Shot;
      try {
        shot = JSON.parse(await file.text());
      } catch {
        throw new Refused("", `${file.name} is not JSON, so it is no shot.`, 400);
      }
      const known = shots.data?.some((one) => one.id === shot.id);
      return told(api.POST("/api/shots", { body: known ? { ...shot, id: crypto.randomUUID() } : shot }));
    },
    onSuccess: (saved) => go(`/shots/${saved.id}`),
  });
  const faults = [copy.error, bring.error, away.error].filter((error) => error !== null);
  if (!shots.data) return <Waiting>{shots.error?.message}</Waiting>;
  return (
    <Shell title={<b>Shots</b>} tab="Shots">
      <chakra.label display="flex" gap="2" alignItems="center" mb="3" color="inkSoft">
        <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} /> Show what
        is put away
      </chakra.label>
      <Panel>
        {shots.data.length === 0 && (
          <Box color="inkSoft">
            No shot yet. <Leads to="/begin">Begin</Leads> with what you want to film.
          </Box>
        )}
        {shots.data.map(({ id, version, archived, document: shot }) => (
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
            {archived && <chakra.span color="inkSoft">put away</chakra.span>}
            <chakra.span color="inkSoft">
              {shot.place.name} · {shot.kit.body.name} · {shot.kit.lens.name}
            </chakra.span>
            <Action ml="auto" aria-label={`Copy ${shot.name}`} onClick={() => copy.mutate(shot)}>
              Copy
            </Action>
            <Action
              aria-label={`${archived ? "Use it again" : "Put it away"}: ${shot.name}`}
              onClick={() => away.mutate({ id, version, archived, document: shot })}
            >
              {archived ? "Use it again" : "Put it away"}
            </Action>
          </Flex>
        ))}
        <Flex pt="4" gap="4" align="center" wrap="wrap">
          <Action strong onClick={() => go("/begin")} data-testid="new-shot">
            New shot
          </Action>
          <chakra.label cursor="pointer" fontWeight="700">
            Bring in a shot from a file{" "}
            <chakra.input
              type="file"
              accept=".json,application/json"
              fontWeight="400"
              fontSize="14px"
              color="inkSoft"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) bring.mutate(file);
                event.target.value = "";
              }}
            />
          </chakra.label>
          {faults
            .flatMap((error) => lines(error))
            .map((line) => (
              <Said key={line}>{line}</Said>
            ))}
        </Flex>
      </Panel>
    </Shell>
  );
}
