import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, type Schemas, told } from "../api/client";
import { Lost } from "../app/Lost";
import { Action, Panel, Said, StateMark, Waiting } from "../app/parts";
import { ShotPage } from "../app/ShotPage";
import { useTitle } from "../app/title";
import { Sheets } from "./Sheets";

type Row = Schemas["RigRow"];

/** A phone is known by its width: what is ticked there says so. */
const here = () => (window.matchMedia("(max-width: 700px)").matches ? "phone" : "laptop");

/** The ordered list for one shot: ticked with cold thumbs, on the laptop or the phone, each step with its reason. */
export default function RigUp() {
  const { id = "" } = useParams();
  useTitle("Rig up");
  const queries = useQueryClient();
  const key = ["rig-up", id];
  const list = useQuery({
    queryKey: key,
    queryFn: () => told(api.GET("/api/shots/{id}/rig-up", { params: { path: { id } } })),
    // What a device answers may change, and somebody may tick on another screen.
    refetchInterval: 3_000,
  });
  const put = (next: Schemas["RigUp"]) => queries.setQueryData(key, next);
  const tick = useMutation({
    mutationFn: ({ step, done }: { step: string; done: boolean }) =>
      told(
        api.PUT("/api/shots/{id}/rig-up/{step}", {
          params: { path: { id, step } },
          body: { done, on: here() },
        }),
      ),
    onSuccess: put,
  });
  const anew = useMutation({
    mutationFn: () => told(api.DELETE("/api/shots/{id}/rig-up", { params: { path: { id } } })),
    onSuccess: put,
  });
  if (list.error && !list.data) return <Lost what="There is no such shot." error={list.error} />;
  if (!list.data) return <Waiting />;
  const { shot, where, begins, rows, cautions, told: howFar, open } = list.data;
  return (
    <ShotPage
      what="Rig up"
      shot={shot}
      told={`${where} · begins ${begins}`}
      to={[
        [`/shots/${id}`, "Desk"],
        ["/", "Tonight"],
      ]}
    >
      <Flex direction={{ base: "column", lg: "row" }} gap="4" align="flex-start">
        <Panel flex="2" width="100%" title={howFar} data-testid="rig-list">
          {tick.error && <Said>{tick.error.message}</Said>}
          {grouped(rows).map(({ phase, steps }) => (
            <Box key={`${phase} ${steps[0]?.id}`}>
              <chakra.h3 fontSize="14px" color="inkSoft" mt="3" mb="1">
                {phase}
              </chakra.h3>
              {steps.map((row) => (
                <Step
                  key={row.id}
                  row={row}
                  number={rows.indexOf(row) + 1}
                  onTick={(done) => tick.mutate({ step: row.id, done })}
                />
              ))}
            </Box>
          ))}
          <Flex mt="4" gap="3" align="center" wrap="wrap">
            <Action minH={{ base: "11", md: "9" }} onClick={() => anew.mutate()}>
              Begin anew
            </Action>
            <Box color="inkSoft" fontSize="14px">
              {open.length === 0
                ? "All is done: it can be left alone."
                : "What stays open is told when it is armed."}
            </Box>
          </Flex>
        </Panel>
        <Box flex="1" width="100%">
          <Panel title="Take care" mb="4" data-testid="cautions">
            {cautions.map((one) => (
              <Box
                key={one.id}
                py="2"
                borderBottom="1px solid"
                borderColor="line"
                _last={{ borderBottom: "none" }}
              >
                <b>{one.title}.</b> {one.says}{" "}
                <chakra.span color="inkSoft" fontSize="14px">
                  {one.defers}
                </chakra.span>
              </Box>
            ))}
          </Panel>
          <Sheets shotId={id} name={shot} />
        </Box>
      </Flex>
    </ShotPage>
  );
}

/** Steps that follow each other in one part of the job, together. */
function grouped(rows: Row[]): { phase: string; steps: Row[] }[] {
  const groups: { phase: string; steps: Row[] }[] = [];
  for (const row of rows) {
    const last = groups.at(-1);
    if (last?.phase === row.phase) last.steps.push(row);
    else groups.push({ phase: row.phase, steps: [row] });
  }
  return groups;
}

function Step({ row, number, onTick }: { row: Row; number: number; onTick: (done: boolean) => void }) {
  return (
    <chakra.label
      display="flex"
      gap="3"
      py="2"
      minH="11"
      cursor={row.by === "the device" ? "default" : "pointer"}
      borderBottom="1px solid"
      borderColor="line"
      data-step={row.id}
      data-done={row.done}
    >
      <chakra.input
        type="checkbox"
        width="22px"
        height="22px"
        mt="0.5"
        flexShrink={0}
        accentColor="var(--chakra-colors-hold)"
        checked={row.done}
        disabled={row.by === "the device"}
        onChange={(event) => onTick(event.target.checked)}
        aria-label={row.says}
      />
      <Box flex="1">
        <Flex gap="2" align="baseline">
          <chakra.span className="figure" color="inkSoft" fontSize="13px">
            {number}
          </chakra.span>
          <chakra.span fontSize="17px" fontWeight="600" color={row.done ? "inkSoft" : undefined}>
            {row.says}
          </chakra.span>
        </Flex>
        <Box fontSize="14px" color="inkSoft">
          {row.why}
        </Box>
        {row.otherwise && !row.done && (
          <Flex gap="2" align="baseline" fontSize="14px">
            <StateMark severity="mind" />
            <span>Otherwise: {row.otherwise}</span>
          </Flex>
        )}
        {row.refused && <Said>You ticked it; the camera says otherwise.</Said>}
        {(row.clock || (row.by === "the device" && row.done)) && (
          <Box fontSize="13px" color="hold" data-testid="ticked">
            {row.clock || "the camera says so"}
          </Box>
        )}
      </Box>
    </chakra.label>
  );
}
