import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, type Shot, told } from "../api/client";
import { download } from "../app/download";
import { Choice, Entry } from "../app/Field";
import { Lost } from "../app/Lost";
import { Action, Leads, Panel, Said, Waiting } from "../app/parts";
import { ShotPage } from "../app/ShotPage";
import { useTitle } from "../app/title";
import { Cell, Head } from "../desk/cells";
import { Making, useFilm, useFilmBeside } from "./useFilm";

type Column = Schemas["WayColumn"];
type Lock = "film" | "clock";

/** So many pictures stand beside each other; the table has all. */
const MOST_SHOWN = 4;
/** How long the cursor stays at a place while it goes by itself. */
const PACE_MS = 80;

/** The ways of a shot under one cursor: their films, what each comes to, and what makes the difference. */
export default function Ways() {
  const { id = "" } = useParams();
  const queries = useQueryClient();
  const key = ["shot", id, "rehearsed"];
  const saved = useQuery({
    queryKey: key,
    queryFn: () => told(api.GET("/api/shots/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });
  const shot = saved.data?.document;
  useTitle(shot ? `Ways of ${shot.name}` : "Ways");
  const [lock, setLock] = useState<Lock>("film");
  const view = useQuery({
    queryKey: ["ways", id, saved.data?.version, lock],
    queryFn: ({ signal }) => told(api.POST("/api/ways", { body: { shot: shot as Shot, lock }, signal })),
    enabled: Boolean(shot),
    placeholderData: (last) => last,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [before, setBefore] = useState<Shot | null>(null);
  const put = useMutation({
    mutationFn: async (next: Shot | Schemas["WayEdit"]) => {
      const is = saved.data;
      if (!is) return;
      const document =
        "act" in next
          ? await told(api.POST("/api/ways/edit", { body: { shot: is.document, edit: next } }))
          : next;
      await told(
        api.PUT("/api/shots/{id}", {
          params: { path: { id }, header: { "If-Match": is.version } },
          body: document,
        }),
      );
      setBefore("act" in next ? is.document : null);
      await Promise.all([queries.invalidateQueries({ queryKey: ["shot", id] }), saved.refetch()]);
    },
  });
  const table = useMutation({
    mutationFn: () =>
      told(api.POST("/api/ways/table", { body: { shot: shot as Shot, lock }, parseAs: "blob" })),
    onSuccess: (blob) => download(blob as Blob, `Ways of ${shot?.name}.csv`, "text/csv"),
  });
  const act = (edit: Schemas["WayEdit"]) => put.mutate(edit);
  if (saved.error) return <Lost what="There is no such shot." error={saved.error} />;
  if (!shot) return <Waiting />;
  return (
    <ShotPage
      what="Ways"
      shot={shot.name}
      width="1600px"
      controls={
        <>
          {(shot.ways?.length ?? 0) > 0 && (
            <Action minH="9" onClick={() => table.mutate()} disabled={table.isPending}>
              Table as CSV
            </Action>
          )}
          <Choice
            aria-label="One cursor by"
            width="auto"
            value={lock}
            options={[
              ["film", "the same second of film"],
              ["clock", "the same hour of the night"],
            ]}
            onChoose={(value) => setLock(value as Lock)}
          />
        </>
      }
      to={[
        [`/shots/${id}/rehearse`, "Rehearse"],
        [`/shots/${id}`, "Desk"],
      ]}
    >
      {view.error && <Said>{view.error.message}</Said>}
      {table.error && <Said>{table.error.message}</Said>}
      {put.error && <Said>{put.error.message}</Said>}
      {before && (
        <Flex gap="3" align="center" mb="3" role="status">
          <span>Done.</span>
          <Action onClick={() => put.mutate(before)} data-testid="undo-way">
            Undo
          </Action>
        </Flex>
      )}
      {view.data?.refused.map((one) => (
        <Flex key={one.name} gap="3" align="center" wrap="wrap" mb="3" data-refused={one.name}>
          <Said>{one.allowed}</Said>
          <Leads to={`/shots/${id}?field=${one.field}`} fontSize="14px">
            See it on the desk
          </Leads>
          <Action
            aria-label={`Drop ${one.name}`}
            onClick={() => act({ act: "drop", name: one.name, to: "" })}
          >
            Drop it
          </Action>
        </Flex>
      ))}
      {view.data && view.data.columns.length === 1 && (
        <Panel mb="4">
          Nothing is kept beside this shot yet. On the desk, “beside” at a fix, a way of exposing, an output,
          a preset or a plan keeps it as another way; it is then seen here.
        </Panel>
      )}
      {view.data && <Beside shot={shot} lock={lock} view={view.data} onAct={act} busy={put.isPending} />}
    </ShotPage>
  );
}

function Beside(props: {
  shot: Shot;
  lock: Lock;
  view: Schemas["WaysView"];
  onAct: (edit: Schemas["WayEdit"]) => void;
  busy: boolean;
}) {
  const { shot, lock, view, onAct, busy } = props;
  const [hidden, setHidden] = useState<string[]>([]);
  const [at, setAt] = useState(0);
  const [going, setGoing] = useState(false);
  const last = view.places.length - 1;
  useEffect(() => {
    if (!going) return;
    const timer = window.setInterval(() => setAt((now) => (now >= last ? 0 : now + 1)), PACE_MS);
    return () => window.clearInterval(timer);
  }, [going, last]);
  const { columns } = view;
  const shown = columns.filter((one) => !hidden.includes(one.name)).slice(0, MOST_SHOWN);
  return (
    <>
      <Grid
        templateColumns={{
          base: "1fr",
          md: `repeat(${shown.length === 3 ? 3 : Math.min(shown.length, 2)}, 1fr)`,
        }}
        gap="4"
        alignItems="start"
      >
        {shown.map((one) => (
          <Seen
            key={one.name}
            way={one}
            shotId={shot.id ?? ""}
            letter={letter(columns.indexOf(one))}
            at={at}
          />
        ))}
      </Grid>
      <Flex gap="3" align="center" my="3">
        <Action minH={{ base: "11", md: "9" }} onClick={() => setGoing(!going)} aria-pressed={going}>
          {going ? "Stop" : "Play"}
        </Action>
        <chakra.input
          type="range"
          flex="1"
          minH="9"
          accentColor="var(--chakra-colors-accent)"
          aria-label="Cursor over all ways"
          aria-valuetext={view.places[at]}
          min={0}
          max={last}
          value={at}
          onChange={(event) => {
            setGoing(false);
            setAt(Number(event.target.value));
          }}
        />
        <Box className="figure" minW="120px" textAlign="right" data-testid="place">
          {view.places[at]}
        </Box>
      </Flex>
      {shown.length > 1 && (
        <Together
          key={`${lock} ${shown.map((one) => one.name).join()}`}
          shot={shot}
          lock={lock}
          shown={shown}
        />
      )}
      <Panel overflowX="auto" mb="4">
        <chakra.table width="100%" fontSize="14px" data-testid="compared">
          <thead>
            <tr>
              <Head />
              {columns.map((one, i) => (
                <Head key={one.name} scope="col">
                  <chakra.label display="inline-flex" gap="2" alignItems="center" minH="9">
                    <input
                      type="checkbox"
                      aria-label={`Show ${one.name}`}
                      checked={!hidden.includes(one.name)}
                      onChange={(event) =>
                        setHidden(
                          event.target.checked
                            ? hidden.filter((name) => name !== one.name)
                            : [...hidden, one.name],
                        )
                      }
                    />
                    <b>{letter(i)}</b> {one.name}
                  </chakra.label>
                </Head>
              ))}
            </tr>
          </thead>
          <tbody>
            {view.rows.map((row) => (
              <chakra.tr key={row.label} borderTop="1px solid" borderColor="line" data-row={row.label}>
                <Cell color="inkSoft">{row.label}</Cell>
                {row.cells.map((cell, i) => (
                  <Cell key={columns[i]?.name} className="figure" data-best={cell.best || undefined}>
                    {cell.best && <Best />}
                    {cell.text}
                  </Cell>
                ))}
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      </Panel>
      <Grid templateColumns={{ base: "1fr", md: "repeat(2, 1fr)" }} gap="4">
        {columns.slice(1).map((one, i) => (
          <Panel key={one.name} data-way={one.name}>
            <Flex gap="3" align="center" mb="2">
              <b>{letter(i + 1)}</b>
              <Entry
                aria-label={`Name of ${one.name}`}
                value={one.name}
                onTake={(to) => onAct({ act: "rename", name: one.name, to })}
              />
            </Flex>
            <Box>{one.cause}</Box>
            <Flex gap="3" mt="3">
              <Action
                strong
                disabled={busy}
                aria-label={`Take ${one.name}`}
                onClick={() => onAct({ act: "take", name: one.name, to: "" })}
              >
                Take this one
              </Action>
              <Action
                disabled={busy}
                aria-label={`Drop ${one.name}`}
                onClick={() => onAct({ act: "drop", name: one.name, to: "" })}
              >
                Drop it
              </Action>
            </Flex>
          </Panel>
        ))}
      </Grid>
    </>
  );
}

/** One film of all that are shown, to be kept. */
function Together({ shot, lock, shown }: { shot: Shot; lock: Lock; shown: Column[] }) {
  const [wanted, setWanted] = useState(false);
  const names = shown.map((one) => one.name);
  const film = useFilmBeside(shot, names, lock, wanted);
  if (film.view?.state === "done")
    return (
      <Box mb="3">
        <Leads
          to={`/api/rehearsals/${film.view.id}/film`}
          download
          reloadDocument
          data-testid="keep-together"
        >
          Keep the film of {names.length} beside each other as MP4
        </Leads>
      </Box>
    );
  return (
    <Box mb="3">
      {!film.view && (
        <Action
          disabled={wanted && !film.error}
          data-testid="together"
          onClick={() => (wanted ? film.again() : setWanted(true))}
        >
          One film of these {names.length} beside each other
        </Action>
      )}
      {film.error && <Said>{film.error.message}</Said>}
      <Making film={film} />
    </Box>
  );
}

/** One way's film, held where the cursor stands. */
function Seen({ way, shotId, letter, at }: { way: Column; shotId: string; letter: string; at: number }) {
  const film = useFilm(way.shot, ["way", shotId, JSON.stringify(way.shot)], 480);
  const video = useRef<HTMLVideoElement>(null);
  const second = way.seek[at];
  const done = film.view?.state === "done";
  useEffect(() => {
    const player = video.current;
    if (done && player && second != null) player.currentTime = second;
  }, [second, done]);
  return (
    <Box data-seen={way.name}>
      <Flex gap="3" align="baseline">
        <chakra.b fontSize="18px">{letter}</chakra.b>
        <b>{way.name}</b>
      </Flex>
      <Box color="inkSoft" fontSize="14px" mb="1">
        {way.told}
      </Box>
      {film.error && <Said>{film.error.message}</Said>}
      <Making film={film} />
      {done && (
        <Box position="relative" bg="lane" borderRadius="6px">
          <chakra.video
            ref={video}
            className="picture"
            src={`/api/rehearsals/${film.view?.id}/film`}
            muted
            playsInline
            preload="auto"
            width="100%"
            borderRadius="6px"
            opacity={second == null ? 0.15 : 1}
            onLoadedMetadata={(event) => {
              event.currentTarget.currentTime = second ?? 0;
            }}
          />
          {second == null && (
            <Flex position="absolute" inset="0" align="center" justify="center" color="inkSoft">
              nothing is taken here
            </Flex>
          )}
        </Box>
      )}
    </Box>
  );
}

/** Marks the best of a row by its shape. */
function Best() {
  return (
    <chakra.svg width="10px" height="10px" viewBox="0 0 10 10" display="inline" mr="1.5" color="hold">
      <title>best</title>
      <path d="M5 0L10 5 5 10 0 5z" fill="currentColor" />
    </chakra.svg>
  );
}

const letter = (i: number) => String.fromCharCode(65 + i);
