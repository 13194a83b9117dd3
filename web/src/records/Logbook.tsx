import { chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Leads, Panel, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";

/** Every run, newest first. */
export default function Logbook() {
  const runs = useQuery({
    queryKey: ["runs", "all"],
    queryFn: () => told(api.GET("/api/runs", { params: { query: { most: 100 } } })),
  });
  if (!runs.data) return <Waiting>{runs.error?.message}</Waiting>;
  return (
    <Shell title={<b>Logbook</b>} tab="Logbook">
      <Panel>
        {runs.data.length === 0 && <chakra.p color="inkSoft">No run yet.</chakra.p>}
        {runs.data.map((run) => (
          <Flex
            key={run.id}
            py="2.5"
            gap="4"
            align="baseline"
            wrap="wrap"
            borderBottom="1px solid"
            borderColor="line"
          >
            <StateMark
              severity={
                run.state === "finished" && !run.missed
                  ? "good"
                  : run.state === "failed" || run.state === "missed"
                    ? "fix"
                    : "mind"
              }
            />
            <Leads to={`/runs/${run.id}/review`}>{run.name}</Leads>
            <chakra.span className="figure" fontSize="14px">
              {run.armed_clock}
            </chakra.span>
            <chakra.span color="inkSoft">
              {run.headline}: {run.taken} of {run.frame_count} frames, {run.film_so_far} of film
              {run.missed ? `, ${run.missed} missed` : ""}. {run.reason}
            </chakra.span>
          </Flex>
        ))}
      </Panel>
    </Shell>
  );
}
