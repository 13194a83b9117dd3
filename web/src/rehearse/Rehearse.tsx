import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, type Shot, told } from "../api/client";
import { Choice } from "../app/Field";
import { Lost } from "../app/Lost";
import { Action, Leads, Panel, Said, StateMark, Waiting } from "../app/parts";
import { ShotPage } from "../app/ShotPage";
import { useTitle } from "../app/title";
import { Making, type Mishap, useFilm } from "./useFilm";

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
  const film = useFilm(shot, [id, saved.data?.version], width, mishaps);
  if (saved.error) return <Lost what="There is no such shot." error={saved.error} />;
  if (!shot) return <Waiting />;
  const { view } = film;
  return (
    <ShotPage
      what="Rehearsal"
      shot={shot.name}
      told={film.told}
      controls={
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
      }
      to={[
        [`/shots/${id}/ways`, "Ways"],
        [`/shots/${id}`, "Desk"],
      ]}
    >
      {film.error && <Said>{film.error.message}</Said>}
      <Practice chosen={mishaps} onChoose={setMishaps} />
      <Making film={film} />
      {view?.state === "done" && (
        <Seen key={view.id} id={view.id} shot={shot} total={view.total} mishaps={mishaps} />
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
          <chakra.label
            key={mishap}
            display="inline-flex"
            gap="2"
            alignItems="center"
            minH={{ base: "11", md: "8" }}
          >
            <input
              type="checkbox"
              data-mishap={mishap}
              checked={chosen.includes(mishap)}
              onChange={(event) =>
                onChoose(event.target.checked ? [...chosen, mishap] : chosen.filter((one) => one !== mishap))
              }
            />
            <b>{mishap}</b> <chakra.span color="inkSoft">{meaning}</chakra.span>
          </chakra.label>
        ))}
      </Flex>
    </chakra.details>
  );
}

function Seen(props: { id: string; shot: Shot; total: number; mishaps: Mishap[] }) {
  const { id, shot, total, mishaps } = props;
  const video = useRef<HTMLVideoElement>(null);
  const [frame, setFrame] = useState(0);
  const [lines, setLines] = useState(false);
  const why = useQuery({
    queryKey: ["stopped", id, frame],
    queryFn: ({ signal }) =>
      told(api.POST("/api/rehearsals/frame", { body: { shot, frame, mishaps }, signal })),
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
      <Box flex="2" width="100%">
        <Box position="relative">
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
          {lines && <Lines horizon={why.data?.horizon ?? []} />}
        </Box>
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
          <chakra.label display="inline-flex" gap="2" alignItems="center" minH="9" fontSize="14px">
            <input
              type="checkbox"
              data-testid="draw-lines"
              checked={lines}
              onChange={(event) => setLines(event.target.checked)}
            />
            Grid and horizon
          </chakra.label>
          <Leads to={`/api/rehearsals/${id}/film`} download reloadDocument ml="auto" fontSize="14px">
            Keep it as MP4
          </Leads>
          <Leads to={`/api/rehearsals/${id}/sheet`} download reloadDocument fontSize="14px">
            All of it on one page
          </Leads>
        </Flex>
      </Box>
      <Panel flex="1" width="100%" title="This frame" data-testid="this-frame">
        {why.error && <Said>{why.error.message}</Said>}
        {why.data && <Why told={why.data} shot={shot} />}
      </Panel>
    </Flex>
  );
}

/** Thirds of the picture, and the level horizon where it lies in this frame. */
function Lines({ horizon }: { horizon: number[][] }) {
  const thirds = [1 / 3, 2 / 3];
  return (
    <chakra.svg
      position="absolute"
      inset="0"
      width="100%"
      height="100%"
      viewBox="0 0 1 1"
      preserveAspectRatio="none"
      pointerEvents="none"
      data-testid="lines"
    >
      <title>Thirds, and the level horizon</title>
      <g stroke="#FFF8E7" strokeOpacity="0.55" fill="none" vectorEffect="non-scaling-stroke">
        {thirds.map((at) => (
          <path key={at} d={`M${at} 0V1M0 ${at}H1`} vectorEffect="non-scaling-stroke" />
        ))}
      </g>
      {horizon.length > 1 && (
        <polyline
          points={horizon.map((point) => point.join(",")).join(" ")}
          fill="none"
          stroke="#F0A04B"
          strokeWidth="2"
          strokeDasharray="6 4"
          vectorEffect="non-scaling-stroke"
        />
      )}
    </chakra.svg>
  );
}

/** How the light of a frame is spread, black at the left; taller than a twentieth is cut off. */
function Spread({ told }: { told: Schemas["Stopped"] }) {
  const most = Math.max(0.02, Math.min(0.12, ...[Math.max(...told.shares)]));
  const bar = 1 / told.shares.length;
  return (
    <Box mt="3" data-testid="spread">
      <chakra.svg
        width="100%"
        height="64px"
        viewBox="0 0 1 1"
        preserveAspectRatio="none"
        bg="lane"
        color="ink"
      >
        <title>How the light is spread, from black to white</title>
        {told.shares.map((share, i) => {
          const high = Math.min(share / most, 1);
          const at = i * bar;
          return <rect key={at} x={at} width={bar} y={1 - high} height={high} fill="currentColor" />;
        })}
      </chakra.svg>
      <Flex justify="space-between" fontSize="13px" color="inkSoft" className="figure">
        <span>black {percent(told.black)}</span>
        <span>white {percent(told.white)}</span>
      </Flex>
    </Box>
  );
}

const percent = (part: number) => `${(100 * part).toFixed(1)} %`;

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
      <Spread told={told} />
      {told.findings.map((sentence) => (
        <Flex key={sentence} gap="2" align="baseline" mt="2">
          <StateMark severity="mind" />
          <span>{sentence}</span>
        </Flex>
      ))}
    </>
  );
}
