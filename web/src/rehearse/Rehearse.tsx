import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, type Shot, told } from "../api/client";
import { Choice } from "../app/Field";
import { Looking } from "../app/Looking";
import { Lost } from "../app/Lost";
import { Action, Leads, Panel, Said, StateMark, Tick, Waiting } from "../app/parts";
import { ShotPage } from "../app/ShotPage";
import { useTitle } from "../app/title";
import { Making, type Mishap, useFilm } from "./useFilm";

const LIGHT = ["light" as const];

/** The film that a shot would give, seen tonight: made, scrubbed, stopped on any frame to see why it looks as it does. */
export default function Rehearse() {
  const { id = "" } = useParams();
  useTitle("Rehearsal");
  const saved = useQuery({
    queryKey: ["shot", id, "rehearsed"],
    queryFn: () => told(api.GET("/api/shots/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });
  const [width, setWidth] = useState(480);
  const [mishaps, setMishaps] = useState<Mishap[]>([]);
  const shot = saved.data?.document;
  const [output, setOutput] = useState<number | null>(null);
  const film = useFilm(shot, [id, saved.data?.version], width, mishaps, output);
  const runs = useQuery({ queryKey: ["runs"], queryFn: () => told(api.GET("/api/runs")) });
  const run = runs.data?.find((one) => one.shot_id === id && one.taken > 0);
  const came: [string, string][] = run ? [[`/runs/${run.id}/review`, "What came"]] : [];
  if (saved.error) return <Lost what="There is no such shot." error={saved.error} />;
  if (!shot) return <Waiting />;
  const { view } = film;
  return (
    <ShotPage
      what="Rehearsal"
      shot={shot.name}
      told={film.told}
      controls={
        <>
          {(shot.outputs?.length ?? 0) > 0 && (
            <Choice
              aria-label="What is made of it"
              width="auto"
              value={output ?? ""}
              options={[
                ["", "as it is taken"],
                ...(shot.outputs ?? []).map((one, n): [string, string] => [String(n), one.name ?? ""]),
              ]}
              onChoose={(value) => setOutput(value === "" ? null : Number(value))}
            />
          )}
          <Choice
            aria-label="Width of the film"
            width="auto"
            value={width}
            options={[
              ["480", "480 px, at once"],
              ["1280", "1,280 px"],
            ]}
            onChoose={(value) => setWidth(Number(value))}
          />
        </>
      }
      to={[...came, [`/shots/${id}/ways`, "Ways"], [`/shots/${id}`, "Desk"]]}
    >
      {film.error && <Said>{film.error.message}</Said>}
      <Practice chosen={mishaps} onChoose={setMishaps} />
      <Making film={film} />
      {view?.state === "done" && (
        <Seen key={view.id} id={view.id} shot={shot} total={view.total} mishaps={mishaps} output={output} />
      )}
    </ShotPage>
  );
}

/** What can be made to go wrong in the rehearsal, to see what would be left. */
function Practice({ chosen, onChoose }: { chosen: Mishap[]; onChoose: (mishaps: Mishap[]) => void }) {
  const all = useQuery({
    queryKey: ["mishaps"],
    queryFn: () => told(api.GET("/api/rehearsals/mishaps")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <chakra.details mb="3" data-testid="practice">
      <chakra.summary
        cursor="pointer"
        minH="9"
        color={chosen.length ? "accentText" : "inkSoft"}
        fontWeight="600"
      >
        {chosen.length ? `With this going wrong: ${chosen.join(", ")}` : "What if something goes wrong?"}
      </chakra.summary>
      <Flex wrap="wrap" gap="1" direction="column">
        {all.data?.map(({ mishap, told: meaning }) => (
          <Tick
            key={mishap}
            of={mishap}
            checked={chosen.includes(mishap)}
            onTick={(on) => onChoose(on ? [...chosen, mishap] : chosen.filter((one) => one !== mishap))}
          >
            <b>{mishap}</b> <chakra.span color="inkSoft">{meaning}</chakra.span>
          </Tick>
        ))}
      </Flex>
    </chakra.details>
  );
}

function Seen(props: { id: string; shot: Shot; total: number; mishaps: Mishap[]; output: number | null }) {
  const { id, shot, total, mishaps, output } = props;
  const video = useRef<HTMLVideoElement>(null);
  const [frame, setFrame] = useState(0);
  const why = useQuery({
    queryKey: ["stopped", id, frame],
    queryFn: ({ signal }) =>
      told(api.POST("/api/rehearsals/frame", { body: { shot, frame, mishaps, output }, signal })),
    placeholderData: (last) => last,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const seek = (to: number) => {
    const player = video.current;
    if (!player?.duration) return;
    player.pause();
    const next = Math.min(Math.max(to, 0), total - 1);
    player.currentTime = ((next + 0.5) / total) * player.duration;
    setFrame(next);
  };
  useEffect(() => {
    const player = video.current;
    if (!player) return;
    const stop = () =>
      setFrame(Math.min(Math.floor((player.currentTime / player.duration) * total), total - 1) || 0);
    player.addEventListener("pause", stop);
    player.addEventListener("seeked", stop);
    return () => {
      player.removeEventListener("pause", stop);
      player.removeEventListener("seeked", stop);
    };
  }, [total]);
  return (
    <Flex direction={{ base: "column", lg: "row" }} gap="4" align="flex-start">
      <Box flex="2" width="100%" maxW={{ lg: "max(420px, calc((100vh - 330px) * 1.4))" }}>
        <Looking
          base={`/api/rehearsals/${id}/frames/${frame}`}
          id={[id, frame]}
          atFirst={LIGHT}
          look={(signal) =>
            told(
              api.GET("/api/rehearsals/{id}/frames/{frame}/looked", {
                params: { path: { id, frame } },
                signal,
              }),
            )
          }
        >
          <chakra.video
            ref={video}
            className="picture"
            src={`/api/rehearsals/${id}/film`}
            controls
            muted
            loop
            width="100%"
            borderRadius="6px"
            bg="lane"
            data-testid="rehearsed"
          />
        </Looking>
        <Flex gap="2" mt="2" align="center" wrap="wrap">
          <Action minH={{ base: "11", md: "9" }} aria-label="One frame back" onClick={() => seek(frame - 1)}>
            ‹
          </Action>
          <Action minH={{ base: "11", md: "9" }} aria-label="One frame on" onClick={() => seek(frame + 1)}>
            ›
          </Action>
          <Box className="figure">
            frame {(frame + 1).toLocaleString("en")} of {total.toLocaleString("en")} in the film
          </Box>
          <Leads to={`/api/rehearsals/${id}/film`} download reloadDocument ml="auto" fontSize="14px">
            Keep it as MP4
          </Leads>
          {output === null && (
            <Leads to={`/api/rehearsals/${id}/sheet`} download reloadDocument fontSize="14px">
              All of it on one page
            </Leads>
          )}
        </Flex>
      </Box>
      <Panel flex="1" width="100%" title="This frame" data-testid="this-frame">
        {why.error && <Said>{why.error.message}</Said>}
        {why.data && <Why told={why.data} shot={shot} />}
      </Panel>
    </Flex>
  );
}

function Why({ told, shot }: { told: Schemas["Stopped"]; shot: Shot }) {
  return (
    <>
      <Box fontWeight="600" mb="2" data-testid="ruled-by">
        {told.ruled_by}{" "}
        <Leads to={`/shots/${shot.id}?field=${told.field}`} fontSize="14px" fontWeight="400">
          Change it on the desk
        </Leads>
      </Box>
      {told.readout.map((one) => (
        <Flex key={one.label} justify="space-between" py="0.5" borderBottom="1px solid" borderColor="line">
          <chakra.span color="inkSoft">{one.label}</chakra.span>
          <chakra.span className="figure" color={one.tone === "bad" ? "fail" : undefined}>
            {one.text}
          </chakra.span>
        </Flex>
      ))}
      {told.findings.map((sentence) => (
        <Flex key={sentence} gap="2" align="baseline" mt="2">
          <StateMark severity="mind" />
          <span>{sentence}</span>
        </Flex>
      ))}
    </>
  );
}
