import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Leads, Panel, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Strip } from "./Strip";

const MOST_ROWS = 5;

/** Home: the hours ahead at a place, what is planned in them, what to bring, what runs. */
export default function Tonight() {
  const [place, setPlace] = useState<string | undefined>();
  const places = useQuery({ queryKey: ["places"], queryFn: () => told(api.GET("/api/places")) });
  const hours = useQuery({
    queryKey: ["tonight", place],
    queryFn: () => told(api.GET("/api/tonight", { params: { query: place ? { place } : {} } })),
    refetchInterval: 60_000,
  });
  const runs = useQuery({
    queryKey: ["runs"],
    queryFn: () => told(api.GET("/api/runs", { params: { query: { most: 6 } } })),
    refetchInterval: 3_000,
  });
  if (hours.error)
    return (
      <Shell title="Tonight" tab="Tonight">
        <Waiting>
          <Box textAlign="center">
            {hours.error.message} <br />
            <Leads to="/places">Places</Leads>, or <Leads to="/begin">Begin</Leads> with what you want to
            film.
          </Box>
        </Waiting>
      </Shell>
    );
  if (!hours.data) return <Waiting />;
  const now = hours.data;
  return (
    <Shell
      tab={`Tonight, ${now.place.name}`}
      title={
        <>
          <b>Tonight</b> at{" "}
          <chakra.select
            aria-label="Place"
            value={now.place.id}
            bg="transparent"
            cursor="pointer"
            maxW="100%"
            css={{
              "& option": { background: "var(--chakra-colors-card)", color: "var(--chakra-colors-ink)" },
            }}
            onChange={(event) => setPlace(event.target.value)}
          >
            {(places.data ?? []).map((one) => (
              <option key={one.id} value={one.id}>
                {one.document.name}
              </option>
            ))}
          </chakra.select>
        </>
      }
      sub={`${now.date} · ${now.zone} · down to ${now.coldest}`}
    >
      <Strip now={now} />
      <Grid templateColumns={{ base: "1fr", lg: "1.15fr 1fr 1fr" }} gap="4" mt="5">
        <Panel title="Before it works">
          {now.troubles.length === 0 && <Empty>Nothing stands against what is planned here.</Empty>}
          {now.troubles.slice(0, MOST_ROWS).map((one) => (
            <Row key={`${one.shot_id}${one.sentence}`}>
              <Flex gap="2" align="baseline">
                <StateMark severity={one.severity} />
                <Box>
                  <Leads to={`/shots/${one.shot_id}`}>{one.sentence}</Leads>
                  <Box color="inkSoft" fontSize="14px">
                    {one.shot_name} · {one.figures}
                  </Box>
                </Box>
              </Flex>
            </Row>
          ))}
          {now.troubles.length > MOST_ROWS && (
            <Empty>and {now.troubles.length - MOST_ROWS} more, on the desks of these shots.</Empty>
          )}
        </Panel>
        <Panel title="Bring and prepare">
          {now.preparations.length === 0 && (
            <Empty>
              No shot is planned for these hours. <Leads to="/shots">Plan one</Leads>
            </Empty>
          )}
          {now.preparations.slice(0, MOST_ROWS).map((one) => (
            <Row key={one.what + one.thing}>
              <Flex justify="space-between" gap="4">
                <chakra.span color="inkSoft">{one.what}</chakra.span>
                <chakra.span className="figure" fontWeight="600" textAlign="right" fontSize="14px">
                  {one.thing}
                  {one.mind && (
                    <chakra.span display="block" color="inkSoft" fontWeight="400" fontSize="13px">
                      {one.mind}
                    </chakra.span>
                  )}
                </chakra.span>
              </Flex>
            </Row>
          ))}
          {now.preparations.length > 0 && (
            <Row>
              {now.preparations.length > MOST_ROWS && `and ${now.preparations.length - MOST_ROWS} more: `}
              <Leads to={`/packing?place=${now.place.id}`}>All that comes along</Leads>, {now.weight}
            </Row>
          )}
        </Panel>
        <Panel title="Running and done">
          {(runs.data ?? []).length === 0 && (
            <Empty>No run yet. Open a shot and press Run: the camera then works without you.</Empty>
          )}
          {(runs.data ?? []).map((run) => (
            <RunRow key={run.id} run={run} />
          ))}
        </Panel>
      </Grid>
    </Shell>
  );
}

function RunRow({ run }: { run: Schemas["RunView"] }) {
  const live = run.state === "armed" || run.state === "running";
  const good = run.state === "finished" && run.missed === 0;
  return (
    <Row>
      <Flex justify="space-between" gap="3" align="baseline">
        <Leads to={live ? `/runs/${run.id}` : `/runs/${run.id}/review`}>{run.name}</Leads>
        <Flex gap="2" align="baseline">
          <StateMark severity={live ? "unseen" : good ? "good" : run.state === "finished" ? "mind" : "fix"} />
          <chakra.span className="figure" fontWeight="600" fontSize="14px">
            {live ? `${Math.floor(run.progress * 100)} %` : run.headline}
          </chakra.span>
        </Flex>
      </Flex>
      <Box color="inkSoft" fontSize="14px">
        {run.armed_clock} · {run.taken.toLocaleString("en")} of {run.frame_count.toLocaleString("en")} frames,{" "}
        {run.film_so_far} of film
        {run.missed ? `, ${run.missed} missed` : ""}
        {run.reason && ` · ${run.reason}`}
      </Box>
    </Row>
  );
}

function Row({ children }: { children: React.ReactNode }) {
  return (
    <Box py="2.5" borderBottom="1px solid" borderColor="line" _last={{ borderBottom: "none" }}>
      {children}
    </Box>
  );
}

function Empty({ children }: { children: React.ReactNode }) {
  return (
    <Box py="3" color="inkSoft">
      {children}
    </Box>
  );
}
