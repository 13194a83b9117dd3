import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, told } from "../api/client";
import { Clip, Turns } from "../app/Clip";
import { control } from "../app/Field";
import { Looking } from "../app/Looking";
import { Lost } from "../app/Lost";
import { Action, Leads, Panel, Progress, Said, StateMark, Tick, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Before } from "../run/Before";
import { Heard } from "./Heard";

type FilmView = Schemas["FilmView"];

/** What came home: the film, the frames, planned beside actual. */
export default function Review() {
  const { id = "" } = useParams();
  const path = { params: { path: { id } } };
  const run = useQuery({
    queryKey: ["run", id],
    queryFn: () => told(api.GET("/api/runs/{id}", path)),
    refetchInterval: (query) =>
      ["armed", "running"].includes(query.state.data?.state ?? "") ? 1_000 : false,
  });
  const frames = useQuery({
    queryKey: ["frames", id, run.data?.state],
    queryFn: () => told(api.GET("/api/runs/{id}/frames", path)),
  });
  const [chosen, setChosen] = useState(0);
  const [beside, setBeside] = useState(false);
  if (run.error) return <Lost what="There is no such run." error={run.error} />;
  if (!run.data || !frames.data) return <Waiting />;
  const frame = frames.data[Math.min(chosen, frames.data.length - 1)];
  return (
    <Shell
      tab={`${run.data.name}, review`}
      title={
        <>
          <b>{run.data.name}</b> · {run.data.headline.toLowerCase()}
        </>
      }
      sub={`${run.data.place} · ${run.data.armed_clock} · ${run.data.taken} of ${run.data.frame_count} frames${
        run.data.reason && ` · ${run.data.reason}`
      }`}
    >
      <Grid templateColumns={{ base: "1fr", lg: "1.25fr 1fr" }} gap="5">
        {run.data.live ? (
          <Panel title="What was filmed">
            {run.data.taken > 0 && (
              <>
                <Clip run={id} number={1} />
                <Heard id={id} />
                <Flex mt="3">
                  <Download href={`/api/runs/${id}/frames/1/picture`} file={run.data.film_name} />
                </Flex>
              </>
            )}
            <Box mt="3">
              <Turns turns={run.data.turns} />
            </Box>
          </Panel>
        ) : (
          <Films id={id} taken={run.data.taken} live={false} name={run.data.name} />
        )}
        <Panel title={run.data.live ? "As it was filmed" : "Frames"}>
          {frame ? (
            <>
              {run.data.live ? null : frame.outcome === "taken" ? (
                <Taken id={id} number={frame.number} beside={beside} />
              ) : (
                <Flex aspectRatio="16 / 9" align="center" justify="center" bg="lane" gap="2" p="4">
                  <StateMark severity="fix" /> Missed. {frame.reason}
                </Flex>
              )}
              {!run.data.live && frame.outcome === "taken" && (
                <Tick of="beside-rehearsed" checked={beside} onTick={setBeside}>
                  Above it as it was rehearsed
                </Tick>
              )}
              {!run.data.live && (
                <chakra.input
                  type="range"
                  aria-label="Frame"
                  min={0}
                  max={frames.data.length - 1}
                  value={chosen}
                  width="100%"
                  my="2"
                  accentColor="var(--chakra-colors-accent)"
                  onChange={(event) => setChosen(Number(event.target.value))}
                />
              )}
              <Grid templateColumns="auto 1fr" columnGap="4" rowGap="1" fontSize="14px">
                <Label>frame</Label>
                <Figure>
                  {frame.number.toLocaleString("en")} at {frame.clock}
                </Figure>
                <Label>planned</Label>
                <Figure>{frame.planned}</Figure>
                <Label>taken</Label>
                <Figure>{frame.settings || "–"}</Figure>
                {frame.rig && (
                  <>
                    <Label>rig</Label>
                    <Figure>{frame.rig}</Figure>
                  </>
                )}
                <Label>late</Label>
                <Figure>{frame.late_s == null ? "–" : `${frame.late_s.toFixed(2)} s of stage time`}</Figure>
              </Grid>
            </>
          ) : (
            <Box color="inkSoft">No frame was taken.</Box>
          )}
        </Panel>
      </Grid>
      {run.data.live && <Films id={id} taken={run.data.taken} live={true} name={run.data.name} />}
      {run.data.kept_before && (
        <Panel title="What it saw before it began" mt="5">
          <Before id={id} />
        </Panel>
      )}
      {run.data.overridden.length > 0 && (
        <Panel title="Armed although" mt="5">
          {run.data.overridden.map((sentence) => (
            <Flex key={sentence} gap="2" align="baseline">
              <StateMark severity="mind" /> {sentence}
            </Flex>
          ))}
        </Panel>
      )}
      {run.data.notes.length > 0 && (
        <Panel title="Noted by the runner" mt="5">
          {run.data.notes.map((note) => (
            <Box key={note}>{note}</Box>
          ))}
        </Panel>
      )}
      {!run.data.live && run.data.taken > 0 && (
        <Panel title="Against the rehearsal" mt="5">
          <Against
            id={id}
            onChoose={(number) => {
              setChosen(frames.data.findIndex((one) => one.number === number));
              setBeside(true);
            }}
          />
        </Panel>
      )}
      <Panel title="Gaps" mt="5">
        <Gaps run={run.data} frames={frames.data} onChoose={setChosen} />
      </Panel>
      <Flex mt="4" gap="5">
        <Leads to={`/shots/${run.data.shot_id}`}>The shot's desk</Leads>
        <Leads to={`/runs/${id}`}>The run</Leads>
        <Leads to={`/runs/${id}/report`}>The morning after</Leads>
      </Flex>
    </Shell>
  );
}

function Label({ children }: { children: React.ReactNode }) {
  return <chakra.span color="inkSoft">{children}</chakra.span>;
}

function Figure({ children }: { children: React.ReactNode }) {
  return (
    <chakra.span className="figure" fontWeight="600">
      {children}
    </chakra.span>
  );
}

/** A frame as it came home, with the one that was rehearsed above it where that is wanted. */
function Taken({ id, number, beside }: { id: string; number: number; beside: boolean }) {
  const path = { params: { path: { id, number } } };
  const against = useQuery({
    queryKey: ["against", id, number],
    queryFn: ({ signal }) => told(api.GET("/api/runs/{id}/frames/{number}/against", { ...path, signal })),
    enabled: beside,
    placeholderData: (last) => last,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const look = { className: "picture", width: "100%", borderRadius: "4px", bg: "lane" } as const;
  return (
    <>
      {beside && (
        <Box mb="2">
          <chakra.img
            {...look}
            src={`/api/runs/${id}/frames/${number}/rehearsed`}
            alt={`Frame ${number} as it was rehearsed`}
            data-testid="as-rehearsed"
          />
          <Box fontWeight="600" mt="1" minH="6" data-testid="residual">
            {against.error ? against.error.message : against.data?.told}
          </Box>
        </Box>
      )}
      <Looking
        base={`/api/runs/${id}/frames/${number}`}
        id={[id, number]}
        look={(signal) => told(api.GET("/api/runs/{id}/frames/{number}/looked", { ...path, signal }))}
      >
        <chakra.img {...look} src={`/api/runs/${id}/frames/${number}/picture`} alt={`Frame ${number}`} />
      </Looking>
    </>
  );
}

/** Frames all through the run held against what was rehearsed. */
function Against({ id, onChoose }: { id: string; onChoose: (number: number) => void }) {
  const [wanted, setWanted] = useState(false);
  const against = useQuery({
    queryKey: ["against", id],
    queryFn: ({ signal }) => told(api.GET("/api/runs/{id}/against", { params: { path: { id } }, signal })),
    enabled: wanted,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  if (against.error) return <Said>{against.error.message}</Said>;
  if (!against.data)
    return (
      <Action onClick={() => setWanted(true)} disabled={wanted} data-testid="hold-against">
        {wanted ? "Holding them together …" : "Hold frames against it"}
      </Action>
    );
  return (
    <>
      <Box fontWeight="600" data-testid="all-residuals">
        {against.data.told}
      </Box>
      <Box as="ul" listStyleType="none" maxH="180px" overflowY="auto" mt="2">
        {against.data.frames.map((one) => (
          <Flex as="li" key={one.number} gap="3" align="baseline" py="0.5">
            <chakra.button
              type="button"
              className="figure"
              fontWeight="600"
              cursor="pointer"
              onClick={() => onChoose(one.number)}
            >
              frame {one.number.toLocaleString("en")}
            </chakra.button>
            <chakra.span color="inkSoft">{one.told}</chakra.span>
          </Flex>
        ))}
      </Box>
    </>
  );
}

function Films(props: { id: string; taken: number; live: boolean; name: string }) {
  const { id, taken, live, name } = props;
  const queries = useQueryClient();
  const path = { params: { path: { id } } };
  const films = useQuery({
    queryKey: ["films", id],
    queryFn: () => told(api.GET("/api/runs/{id}/films", path)),
    refetchInterval: (query) => (query.state.data?.some(isBusy) ? 400 : false),
  });
  const toMake = useQuery({
    queryKey: ["to-make", id],
    queryFn: () => told(api.GET("/api/runs/{id}/to-make", path)),
  });
  const folders = useQuery({ queryKey: ["own"], queryFn: () => told(api.GET("/api/own")) });
  const [own, setOwn] = useState("");
  const [chosen, setChosen] = useState(0);
  const refresh = () => queries.invalidateQueries({ queryKey: ["films", id] });
  const make = useMutation({
    mutationFn: (output: number | null) =>
      told(api.POST("/api/runs/{id}/films", { ...path, body: { output, own } })),
    onSuccess: refresh,
  });
  const cancel = useMutation({
    mutationFn: (film: string) =>
      told(api.POST("/api/films/{id}/cancel", { params: { path: { id: film } } })),
    onSuccess: refresh,
  });
  // The frames as they are, then each output of the shot.
  const outputs = toMake.data ?? [];
  const offered: { output: number | null; name: string }[] = [
    ...(live ? [] : [{ output: null, name: "" }]),
    ...outputs.map((one, output) => ({ output, name: one })),
  ];
  const choice = offered[Math.min(chosen, offered.length - 1)];
  if (!choice) return null;
  const mine = films.data?.filter((film) => film.name === choice.name) ?? [];
  const newest = mine[0];
  const done = mine.find((film) => film.state === "finished");
  const busy = newest !== undefined && isBusy(newest);
  const can = taken > 0 || own !== "";
  return (
    <Panel title={live ? "Made of it" : "Film"} mt={live ? "5" : undefined}>
      {offered.length > 1 && (
        <Flex gap="2" wrap="wrap" mb="3" role="tablist" aria-label="What is made">
          {offered.map((one, at) => (
            <Action
              key={one.name}
              role="tab"
              aria-selected={one === choice}
              strong={one === choice}
              onClick={() => setChosen(at)}
            >
              {one.name || "As it is"}
            </Action>
          ))}
        </Flex>
      )}
      {done?.picture ? (
        <chakra.img
          className="picture"
          data-testid="film"
          src={`/api/films/${done.id}/file`}
          alt={`${done.name} of ${name}`}
          maxW="100%"
          maxH="70vh"
          mx="auto"
          borderRadius="4px"
        />
      ) : done ? (
        // A time-lapse has no sound, and so nothing to caption.
        // biome-ignore lint/a11y/useMediaCaption: see above
        <chakra.video
          className="picture"
          data-testid="film"
          key={done.id}
          src={`/api/films/${done.id}/file`}
          controls
          loop
          width="100%"
          maxH="70vh"
          aspectRatio={done.name ? undefined : "16 / 9"}
          borderRadius="4px"
          bg="lane"
          aria-label={`Film of ${name}`}
        />
      ) : (
        <Flex
          aspectRatio="16 / 9"
          align="center"
          justify="center"
          bg="lane"
          borderRadius="4px"
          color="inkSoft"
          p="6"
        >
          {can ? "The frames are not a film yet." : "No frame was taken, so there is no film in it."}
        </Flex>
      )}
      <Flex mt="3" gap="4" align="center" wrap="wrap" minH="10">
        {busy ? (
          <Making film={newest} onCancel={() => cancel.mutate(newest.id)} />
        ) : (
          <Action
            strong={!done}
            disabled={!can || make.isPending}
            onClick={() => make.mutate(choice.output)}
            data-testid="assemble"
          >
            {done ? "Make it again" : `Make ${choice.name || "the film"}`}
          </Action>
        )}
        {!busy && done && <Download href={`/api/films/${done.id}/file?download=true`} file={done.file} />}
        {!busy && done && (
          <chakra.span className="figure" color="inkSoft" fontSize="14px" data-testid="film-summary">
            {done.summary}
          </chakra.span>
        )}
        {newest?.state === "failed" && <Said>{newest.reason}</Said>}
        {make.error && <Said>{make.error.message}</Said>}
      </Flex>
      {done?.aligned && (
        <chakra.p fontSize="14px" mt="1">
          {done.aligned} <a href={`/api/films/${done.id}/aligned`}>By frame</a>
        </chakra.p>
      )}
      {(folders.data?.length ?? 0) > 0 && (
        <chakra.label fontSize="14px" display="flex" gap="2" alignItems="center" mt="2">
          of
          <chakra.select
            value={own}
            onChange={(event) => setOwn(event.target.value)}
            {...control}
            data-testid="own-folder"
          >
            <option value="">what came home from the camera</option>
            {folders.data?.map((folder) => (
              <option key={folder} value={folder}>
                my folder {folder}
              </option>
            ))}
          </chakra.select>
        </chakra.label>
      )}
    </Panel>
  );
}

const isBusy = (film: FilmView) => film.state === "waiting" || film.state === "working";

function Making({ film, onCancel }: { film: FilmView; onCancel: () => void }) {
  return (
    <>
      <Progress done={film.done} total={film.total} />
      <chakra.span className="figure" fontSize="14px">
        {film.step || "Waiting"} · {film.done} of {film.total}
        {film.left && ` · ${film.left} left`}
      </chakra.span>
      <Action onClick={onCancel}>Cancel</Action>
    </>
  );
}

/** A button that keeps a film, under its own name. */
function Download({ href, file }: { href: string; file: string }) {
  return (
    <chakra.a
      href={href}
      download={file}
      data-testid="download"
      px="4"
      minH="9"
      display="inline-flex"
      alignItems="center"
      borderRadius="6px"
      fontWeight="600"
      border="1.5px solid"
      borderColor="button"
      _hover={{ borderColor: "accent" }}
    >
      Download
    </chakra.a>
  );
}

/** What became of all frames, and every missed one with its reason. */
function Gaps(props: {
  run: Schemas["RunView"];
  frames: Schemas["FrameView"][];
  onChoose: (at: number) => void;
}) {
  const { run, frames, onChoose } = props;
  const missed = frames.flatMap((frame, at) => (frame.outcome === "missed" ? [{ frame, at }] : []));
  const told = (
    <Flex gap="2" align="center" data-testid="gaps">
      <StateMark severity={run.gaps_tone === "good" ? "good" : "fix"} /> {run.gaps}
    </Flex>
  );
  if (missed.length === 0) return told;
  return (
    <>
      {told}
      <Box as="ul" listStyleType="none" maxH="180px" overflowY="auto" mt="2">
        {missed.map(({ frame, at }) => (
          <Flex as="li" key={frame.number} gap="3" align="baseline" py="0.5">
            <StateMark severity="fix" />
            <chakra.button
              type="button"
              className="figure"
              fontWeight="600"
              cursor="pointer"
              onClick={() => onChoose(at)}
            >
              frame {frame.number} at {frame.clock}
            </chakra.button>
            <chakra.span color="inkSoft">{frame.reason}</chakra.span>
          </Flex>
        ))}
      </Box>
    </>
  );
}
