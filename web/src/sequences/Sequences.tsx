import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type Schemas, told } from "../api/client";
import { Delete } from "../app/Delete";
import { Typing } from "../app/Field";
import { Action, Leads, Panel, Said, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

type Row = Schemas["ListedSequence"];
type Sequence = Schemas["ShotSequence"];

/** Films made of shots. */
export default function Sequences() {
  const go = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [away, setAway] = useState(false);
  const rows = useQuery({ queryKey: ["sequences"], queryFn: () => told(api.GET("/api/sequences")) });
  const refresh = () => queries.invalidateQueries({ queryKey: ["sequences"] });
  const add = useMutation({
    mutationFn: async () =>
      told(api.POST("/api/sequences", { body: { id: crypto.randomUUID(), name: name.trim() } as Sequence })),
    onSuccess: (saved) => go(`/sequences/${saved.id}`),
  });
  const put = useMutation({
    mutationFn: async ({ row, archived }: { row: Row; archived: boolean }) => {
      const saved = await told(api.GET("/api/sequences/{id}", { params: { path: { id: row.id } } }));
      return told(
        api.PUT("/api/sequences/{id}", {
          params: { path: { id: row.id }, query: { archived }, header: { "If-Match": saved.version } },
          body: saved.document,
        }),
      );
    },
    onSuccess: refresh,
  });
  const remove = useMutation({
    mutationFn: (id: string) => told(api.DELETE("/api/sequences/{id}", { params: { path: { id } } })),
    onSuccess: refresh,
  });
  const fault = rows.error ?? add.error ?? put.error ?? remove.error;
  if (!rows.data) return <Waiting>{fault?.message}</Waiting>;
  const shown = rows.data.filter((row) => row.archived === away);
  return (
    <Shell title={<b>Sequences</b>} tab="Sequences" sub="films made of shots, and the day of filming them">
      <chakra.form
        display="flex"
        gap="3"
        mb="4"
        flexWrap="wrap"
        alignItems="center"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) add.mutate();
        }}
      >
        <Typing
          width={{ base: "100%", sm: "300px" }}
          aria-label="Name of a new sequence"
          placeholder="A film of …"
          maxLength={80}
          value={name}
          onType={setName}
        />
        <Action strong type="submit" disabled={!name.trim() || add.isPending}>
          New sequence
        </Action>
        <chakra.label display="flex" gap="2" alignItems="center" color="inkSoft">
          <input type="checkbox" checked={away} onChange={(event) => setAway(event.target.checked)} /> Put
          away
        </chakra.label>
      </chakra.form>
      {fault && <Said>{fault.message}</Said>}
      <Panel>
        {shown.length === 0 && (
          <Box color="inkSoft">
            {away ? "None is put away." : "None yet: give a film its name above, then put shots in."}
          </Box>
        )}
        {shown.map((row) => (
          <Listed
            key={row.id}
            row={row}
            onAway={() => put.mutate({ row, archived: !row.archived })}
            onDelete={() => remove.mutate(row.id)}
          />
        ))}
      </Panel>
    </Shell>
  );
}

function Listed({ row, onAway, onDelete }: { row: Row; onAway: () => void; onDelete: () => void }) {
  const small = { minH: { base: "11", md: "8" }, px: "3" } as const;
  return (
    <Flex
      py="2"
      gap="4"
      align="baseline"
      borderBottom="1px solid"
      borderColor="line"
      wrap="wrap"
      data-row={row.id}
    >
      <Leads to={`/sequences/${row.id}`} fontSize="17px">
        {row.name}
      </Leads>
      <chakra.span color="inkSoft">
        {row.cuts} {row.cuts === 1 ? "cut" : "cuts"} · {row.use}
      </chakra.span>
      <Flex ml="auto" gap="2">
        <Action {...small} onClick={onAway}>
          {row.archived ? "Use it again" : "Put it away"}
        </Action>
        <Delete name={row.name} onDelete={onDelete} />
      </Flex>
    </Flex>
  );
}
