import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, type Schemas, told } from "../api/client";
import { Choice, Field, Typing } from "../app/Field";
import { Action, Panel, Quiet, Said, StateMark } from "../app/parts";

type OutletView = Schemas["OutletView"];
type Level = OutletView["from_level"];

const LEVELS = [
  ["come", "to come for"],
  ["look", "to look at, too"],
] as const;
const EMPTY = { name: "", address: "", from_level: "come" as Level };

/** Where alarms go out to, beside the page: added, tried, taken away. */
export function Outlets() {
  const queries = useQueryClient();
  const [typed, setTyped] = useState(EMPTY);
  const outlets = useQuery({ queryKey: ["outlets"], queryFn: () => told(api.GET("/api/outlets")) });
  const keep = (found: OutletView[]) => queries.setQueryData(["outlets"], found);
  const add = useMutation({
    mutationFn: () => told(api.POST("/api/outlets", { body: typed })),
    onSuccess: (found) => {
      keep(found);
      setTyped(EMPTY);
    },
  });
  const remove = useMutation({
    mutationFn: (id: string) => told(api.DELETE("/api/outlets/{id}", { params: { path: { id } } })),
    onSuccess: keep,
  });
  const attempt = useMutation({
    mutationFn: (id: string) => told(api.POST("/api/outlets/{id}/try", { params: { path: { id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["outlets"] }),
  });
  const fault = (path: string) =>
    add.error instanceof Refused
      ? add.error.faults?.find((one) => one.path.endsWith(path))?.allowed
      : undefined;
  return (
    <Panel title="Alarms go out to">
      <chakra.p color="inkSoft" mb="3">
        Alarms stand on the run's page. They also go to these addresses, those to come for again every five
        minutes until somebody has seen them. Runs on a faster stage clock send nothing.
      </chakra.p>
      {outlets.data?.map((one) => (
        <Flex
          key={one.id}
          gap="3"
          py="2"
          align="baseline"
          wrap="wrap"
          borderBottom="1px solid"
          borderColor="line"
          data-outlet={one.name}
        >
          <StateMark severity={one.failed ? "stop" : "good"} />
          <b>{one.name}</b>
          <chakra.span className="figure" overflowWrap="anywhere">
            {one.address}
          </chakra.span>
          <span>{one.from_level === "come" ? "those to come for" : "all"}</span>
          {one.failed && <Said>{one.failed}</Said>}
          {attempt.variables === one.id && attempt.data && !attempt.data.failed && <span>It went out.</span>}
          <Flex gap="3" ml="auto">
            <Quiet
              minH="9"
              aria-label={`Try: ${one.name}`}
              disabled={attempt.isPending}
              onClick={() => attempt.mutate(one.id)}
            >
              Try it
            </Quiet>
            <Quiet minH="9" aria-label={`Take away: ${one.name}`} onClick={() => remove.mutate(one.id)}>
              Take away
            </Quiet>
          </Flex>
        </Flex>
      ))}
      <chakra.form
        mt="4"
        data-testid="add-outlet"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <Grid templateColumns={{ base: "1fr", md: "1fr 2fr 1fr auto" }} gap="3" alignItems="end">
          <Field label="Name" fault={fault("name")}>
            {(id) => (
              <Typing
                id={id}
                name="outlet-name"
                value={typed.name}
                onType={(text) => setTyped({ ...typed, name: text })}
              />
            )}
          </Field>
          <Field label="Address" fault={fault("address")}>
            {(id) => (
              <Typing
                id={id}
                name="outlet-address"
                placeholder="mailto://… or json://…"
                value={typed.address}
                onType={(text) => setTyped({ ...typed, address: text })}
              />
            )}
          </Field>
          <Field label="Which">
            {(id) => (
              <Choice
                id={id}
                options={LEVELS}
                value={typed.from_level}
                onChoose={(level) => setTyped({ ...typed, from_level: level as Level })}
              />
            )}
          </Field>
          <Action type="submit" strong disabled={add.isPending}>
            Add
          </Action>
        </Grid>
        {add.error && !fault("name") && !fault("address") && <Said>{add.error.message}</Said>}
      </chakra.form>
      {outlets.error && <Said>{outlets.error.message}</Said>}
      {remove.error && (
        <Box>
          <Said>{remove.error.message}</Said>
        </Box>
      )}
    </Panel>
  );
}
