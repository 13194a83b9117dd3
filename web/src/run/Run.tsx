import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, told } from "../api/client";
import { Clip, Turns } from "../app/Clip";
import { Looking } from "../app/Looking";
import { Lost } from "../app/Lost";
import { Large, Leads, type Severity, StateMark, Tick, Waiting } from "../app/parts";
import { ThemeChoice } from "../app/Shell";
import { useTitle } from "../app/title";
import { Alarms } from "./Alarms";
import { Before } from "./Before";
import { Change } from "./Change";
import { MayGo } from "./MayGo";
import { useSound } from "./sound";
import { Trends } from "./Trends";
import { useRun } from "./useRun";
import { Waits } from "./Waits";

type RunView = Schemas["RunView"];

const GROUND: Record<string, { bg: string; mark: Severity }> = {
  armed: { bg: "accentSoft", mark: "unseen" },
  running: { bg: "holdSoft", mark: "good" },
  finished: { bg: "holdSoft", mark: "good" },
  stopped: { bg: "accentSoft", mark: "mind" },
  failed: { bg: "failSoft", mark: "stop" },
  missed: { bg: "failSoft", mark: "stop" },
};

/** The run, made to be read from five metres, and for a thumb. */
export default function Run() {
  const { id = "" } = useParams();
  const { run, heard, lost, missing, setRun } = useRun(id);
  const sound = useSound();
  const [who, setWho] = useState(() => localStorage.getItem(WHO) ?? "");
  const nameWho = (name: string) => {
    localStorage.setItem(WHO, name);
    setWho(name);
  };
  useTitle(run ? `${calling(run)}${run.headline}, ${run.name}` : "");
  const stop = useMutation({
    mutationFn: () => told(api.POST("/api/runs/{id}/stop", { params: { path: { id } } })),
    onSuccess: setRun,
  });
  if (missing) return <Lost what="There is no such run." error={missing} />;
  if (!run)
    return <Waiting>{lost ? "This run cannot be followed just now; trying again." : undefined}</Waiting>;
  const live = run.state === "armed" || run.state === "running";
  // Where nobody is linked to the camera nothing is known to be good.
  const ground = (run.by_clock || (live && run.waits_until) ? GROUND.armed : GROUND[run.state]) ?? {
    bg: "card",
    mark: "unseen" as const,
  };
  return (
    <Box as="main" minH="100vh">
      <Flex
        as="header"
        bg={ground.bg}
        px={{ base: "4", md: "10" }}
        py="3"
        gap={{ base: "2", md: "4" }}
        align="center"
        wrap="wrap"
      >
        <StateMark severity={ground.mark} size={24} />
        <chakra.h1 fontSize={{ base: "26px", md: "32px" }} fontWeight="700" data-testid="run-state">
          {run.headline}
        </chakra.h1>
        <chakra.span fontSize={{ base: "16px", md: "20px" }}>
          {run.name}
          {run.rig_name && ` · ${run.rig_name}`}
          {run.sign && (
            <chakra.span
              data-testid="sign"
              fontWeight={run.sign_tone === "bad" ? 700 : 400}
              color={run.sign_tone === "bad" ? "fail" : undefined}
            >
              {" "}
              · {run.sign}
            </chakra.span>
          )}
          {run.speed > 1 ? ` · stage clock × ${run.speed}` : ""}
        </chakra.span>
        <Flex ml="auto" gap="4" align="center" width={{ base: "100%", md: "auto" }} wrap="wrap">
          {live && (
            <Tick of="sound" checked={sound.on} onTick={sound.turn}>
              Tell me by sound
            </Tick>
          )}
          {live ? (
            <Stop
              by={run.by_clock}
              onStop={() => stop.mutate()}
              busy={run.headline === "Stopping" || stop.isPending}
            />
          ) : (
            <>
              <Leads to={`/runs/${id}/report`} fontSize="20px" minH="11" display="flex" alignItems="center">
                The morning after
              </Leads>
              <Leads to={`/runs/${id}/review`} fontSize="20px" minH="11" display="flex" alignItems="center">
                Review it
              </Leads>
            </>
          )}
          <Leads to="/" fontWeight="400" minH="11" display="flex" alignItems="center">
            Tonight
          </Leads>
          <ThemeChoice />
        </Flex>
      </Flex>
      {lost && live && (
        <Flex role="alert" bg="failSoft" px="10" py="2" gap="2" align="center">
          <StateMark severity="fix" />
          The line to Revani is cut; what stands here is old. The run itself goes on without this page.
        </Flex>
      )}
      <Alarms run={run} sound={sound} who={who} onRun={setRun} />
      {!(live && run.waits_until) && <MayGo run={run} sound={sound} />}
      <Grid
        templateColumns={{ base: "1fr", lg: "1.15fr 1fr" }}
        gap={{ base: "5", md: "9" }}
        px={{ base: "4", md: "10" }}
        pt="6"
      >
        <Box>
          {live && run.waits_until ? (
            <Waits run={run} who={who} onRun={setRun} />
          ) : live && run.next_in_s != null ? (
            <Countdown run={run} heard={heard} />
          ) : (
            <Ended run={run} />
          )}
          <chakra.p fontSize={{ base: "19px", md: "25px" }} mt="4" color="inkSoft">
            {run.by_clock && "by now about "}
            <B testId="taken">{(run.by_clock ? run.expected : run.taken).toLocaleString("en")}</B> of{" "}
            <B>{run.frame_count.toLocaleString("en")}</B>
            {run.live ? " filmed · until " : " · last frame "}
            {live && run.waits_until && "at the latest "}
            <B>
              {run.last_frame_clock} {run.zone}
            </B>
            {run.left && (
              <>
                {" "}
                · in <B>{run.left}</B>
              </>
            )}
            {live && !run.by_clock && (
              <>
                {" "}
                · <B>{run.film_so_far}</B> of film
              </>
            )}
          </chakra.p>
          <Grid templateColumns="repeat(auto-fit, minmax(128px, 1fr))" gap="4" mt="6">
            {run.figures.map((figure) => (
              <Box
                key={figure.label}
                borderTop="4px"
                borderTopStyle={figure.state === "good" ? "solid" : "dashed"}
                borderTopColor={
                  figure.state === "good" ? "hold" : figure.state === "mind" ? "accent" : "fail"
                }
                pt="2"
              >
                <chakra.div
                  className="figure"
                  whiteSpace="nowrap"
                  fontSize={{ base: "25px", md: "29px" }}
                  fontWeight="700"
                  lineHeight="1.2"
                >
                  {figure.text}
                </chakra.div>
                <Box color="inkSoft">
                  {figure.label}
                  {figure.beside && `, ${figure.beside}`}
                </Box>
              </Box>
            ))}
          </Grid>
          {run.trends && run.trends.length > 0 && (
            <Box mt="6">
              <Trends trends={run.trends} />
            </Box>
          )}
        </Box>
        <Picture run={run} />
      </Grid>
      <Change run={run} who={who} onWho={nameWho} onRun={setRun} />
      {run.kept_before && (
        <Box px={{ base: "4", md: "10" }} pt="6">
          <Before id={id} titled />
        </Box>
      )}
      {run.notes.length > 0 && (
        <Box px={{ base: "4", md: "10" }} pt="5" color="inkSoft" data-testid="notes">
          {run.notes.join(" ")}
        </Box>
      )}
      {run.overridden.length > 0 && (
        <Box px={{ base: "4", md: "10" }} pt="5" color="inkSoft" data-testid="overridden">
          Armed although: {run.overridden.join(" ")}
        </Box>
      )}
      {run.turns.length > 0 && (
        <Box px={{ base: "4", md: "10" }} pt="6">
          <Turns turns={run.turns} />
        </Box>
      )}
      <Box px={{ base: "4", md: "10" }} py="6">
        <Progress run={run} heard={heard} />
      </Box>
    </Box>
  );
}

const WHO = "revani.who";

/** In the title of the tab, so that it is seen from another. */
const calling = (run: RunView) =>
  run.alarms?.some((one) => one.level === "come" && !one.seen) ? "Come! " : "";

const CHANGE_OF_MIND_MS = 8_000;

/** Stops the run once it is asked for twice: the first press is let go again after a few seconds. */
function Stop({ by, onStop, busy }: { by: boolean; onStop: () => void; busy: boolean }) {
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (!asked) return;
    const timer = window.setTimeout(() => setAsked(false), CHANGE_OF_MIND_MS);
    return () => window.clearTimeout(timer);
  }, [asked]);
  if (!asked || busy)
    return (
      <Large type="button" disabled={busy} data-testid="stop" onClick={() => setAsked(true)}>
        {by ? "Stop following" : "Stop safely"}
      </Large>
    );
  return (
    <>
      <Large type="button" bg="fail" color="ground" data-testid="stop-sure" onClick={onStop} autoFocus>
        End the run
      </Large>
      <Large type="button" data-testid="stop-not" onClick={() => setAsked(false)}>
        Go on
      </Large>
    </>
  );
}

function B({ children, testId }: { children: React.ReactNode; testId?: string }) {
  return (
    <chakra.b className="figure" color="ink" data-testid={testId}>
      {children}
    </chakra.b>
  );
}

/** Seconds to the next frame, counted on between the server's words. */
function Countdown({ run, heard }: { run: RunView; heard: number }) {
  const now = useTicks(200);
  const left = Math.max(0, (run.next_in_s ?? 0) - ((now - heard) / 1000) * run.speed);
  const far = left >= 3600;
  return (
    <Flex align="baseline" gap="4" wrap="wrap">
      <chakra.span
        className="figure"
        fontSize={{ base: "88px", md: "150px" }}
        fontWeight="700"
        lineHeight="0.95"
        data-testid="countdown"
      >
        {far ? run.next_in : Math.round(left)}
      </chakra.span>
      <chakra.span className="figure" fontSize={{ base: "24px", md: "38px" }} color="inkSoft">
        {far ? "" : "s "}
        {run.live ? "to the film" : `to frame ${run.next_number?.toLocaleString("en")}`}
      </chakra.span>
    </Flex>
  );
}

function Ended({ run }: { run: RunView }) {
  return (
    <Box>
      <chakra.div className="figure" fontSize={{ base: "64px", md: "104px" }} fontWeight="700" lineHeight="1">
        {run.by_clock ? run.expected.toLocaleString("en") : run.film_so_far}
      </chakra.div>
      <Box fontSize="22px" color="inkSoft">
        {run.by_clock ? "should be on its card" : run.state === "running" ? "of film so far" : "of film"}
        {run.reason && `. ${run.reason}`}
      </Box>
    </Box>
  );
}

function Picture({ run }: { run: RunView }) {
  if (run.by_clock)
    return (
      <Flex bg="lane" borderRadius="6px" minH="240px" align="center" justify="center" color="inkSoft" p="6">
        Nobody is linked to this camera: there is no picture to show.
      </Flex>
    );
  if (run.camera_sleeps)
    return (
      <Flex bg="lane" borderRadius="6px" minH="240px" align="center" justify="center" color="inkSoft" p="6">
        The camera is left to sleep until it begins: it is not asked for a picture.
      </Flex>
    );
  if (!run.newest_number)
    return <Finder run={run.id} live={run.state === "armed" || run.state === "running"} />;
  return (
    <Box>
      {run.live ? (
        <Clip run={run.id} number={run.newest_number} />
      ) : (
        <Newest run={run.id} number={run.newest_number} />
      )}
      <Flex
        justify="space-between"
        mt="2"
        fontSize="18px"
        color="inkSoft"
        className="figure"
        gap="3"
        wrap="wrap"
      >
        <span>
          {run.live ? "film" : `frame ${run.newest_number.toLocaleString("en")}`} · {run.newest_settings}
        </span>
        <span>{run.picture_age}</span>
      </Flex>
    </Box>
  );
}

const PICTURE = { className: "picture", width: "100%", borderRadius: "6px", bg: "lane" } as const;

/** The newest frame that was stored. */
function Newest({ run, number }: { run: string; number: number }) {
  return (
    <Looking
      base={`/api/runs/${run}/frames/${number}`}
      id={[run, number]}
      look={(signal) =>
        told(
          api.GET("/api/runs/{id}/frames/{number}/looked", { params: { path: { id: run, number } }, signal }),
        )
      }
    >
      <chakra.img {...PICTURE} src={`/api/runs/${run}/frames/${number}/picture`} alt={`Frame ${number}`} />
    </Looking>
  );
}

/** What the camera sees before the first frame, looked at again every two seconds. */
function Finder({ run, live }: { run: string; live: boolean }) {
  const look = useTicks(2_000);
  const [dark, setDark] = useState(false);
  if (!live || dark)
    return (
      <Flex bg="lane" borderRadius="6px" minH="240px" align="center" justify="center" color="inkSoft" p="6">
        {live ? "The camera shows no picture yet." : "No frame was taken."}
      </Flex>
    );
  return (
    <Box>
      <Looking
        base={`/api/runs/${run}/live`}
        id={[run, "live", Math.round(look)]}
        look={(signal) =>
          told(api.GET("/api/runs/{id}/live/looked", { params: { path: { id: run } }, signal }))
        }
      >
        <chakra.img
          {...PICTURE}
          src={`/api/runs/${run}/live.jpg?at=${Math.round(look)}`}
          alt="What the camera sees now"
          onError={() => setDark(true)}
        />
      </Looking>
      <Box mt="2" fontSize="18px" color="inkSoft">
        the finder, now; no frame is taken yet
      </Box>
    </Box>
  );
}

/** The night so far on its light. */
function Progress({ run, heard }: { run: RunView; heard: number }) {
  const now = useTicks(500);
  const live = run.state === "armed" || run.state === "running";
  const stage = run.now_s + (live ? ((now - heard) / 1000) * run.speed : 0);
  const part = Math.min(1, Math.max(0, (stage - run.start_s) / (run.end_s - run.start_s)));
  return (
    <Box position="relative" pt="2">
      <Box
        className="sky"
        height="40px"
        borderRadius="4px"
        style={{ background: `linear-gradient(90deg, ${run.sky_colours.join(",")})` }}
      />
      <Box
        position="absolute"
        top="0"
        height="52px"
        width="3px"
        bg="accent"
        style={{ left: `${part * 100}%` }}
      />
    </Box>
  );
}

function useTicks(every_ms: number): number {
  const [now, setNow] = useState(() => performance.now());
  useEffect(() => {
    const timer = window.setInterval(() => setNow(performance.now()), every_ms);
    return () => window.clearInterval(timer);
  }, [every_ms]);
  return now;
}
