import { Box, chakra, Grid } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, Refused, type Schemas, told } from "../api/client";
import { download } from "../app/download";
import { Leads, Panel, Said, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Starters } from "../app/Starters";
import { Typed, word } from "../app/Word";
import { Decided } from "./Decided";
import { Mark } from "./marks";
import { Nights } from "./Nights";

type Ask = Schemas["BeginAsk"];

/** From what one wants to film to a shot: what moves, where, when, with what; the rest is worked out. */
export default function Begin() {
  const go = useNavigate();
  const [ask, setAsk] = useState<Partial<Ask>>({});
  const choices = useQuery({
    queryKey: ["begin"],
    queryFn: () => told(api.GET("/api/begin")),
  });
  const ready = Boolean(ask.moves) && choices.data?.missing.length === 0;
  const draft = useQuery({
    queryKey: ["draft", ask],
    queryFn: ({ signal }) => told(api.POST("/api/begin/draft", { body: ask as Ask, signal })),
    enabled: ready,
    placeholderData: (before) => before,
    retry: false,
    staleTime: 60_000,
  });
  const place = ask.place ?? choices.data?.places[0]?.id;
  const nights = useQuery({
    queryKey: ["nights", ask.moves, place],
    queryFn: ({ signal }) =>
      told(
        api.POST("/api/begin/nights", {
          body: { moves: ask.moves as Ask["moves"], place, count: 60 },
          signal,
        }),
      ),
    enabled: ready,
    placeholderData: (before) => before,
  });
  const save = useMutation({
    mutationFn: async () => {
      if (!draft.data) throw new Error("There is no draft yet.");
      return told(api.POST("/api/shots", { body: draft.data.shot }));
    },
    onSuccess: (saved) => go(`/shots/${saved.id}`),
  });
  if (!choices.data) return <Waiting>{choices.error?.message}</Waiting>;
  const { moves, uses, places, bodies, lenses, movers, missing } = choices.data;
  const now = draft.data;
  // What is chosen anew is decided anew; what was typed over belongs to the draft before.
  const put = (part: Partial<Ask>) => setAsk((before) => ({ ...before, edits: [], ...part }));
  const refused = draft.error instanceof Refused ? draft.error : null;
  return (
    <Shell
      title={<b>Begin</b>}
      tab="Begin"
      sub="what moves in the picture, where, when, with what: the rest is worked out"
    >
      {missing.length > 0 && <First missing={missing} starters={choices.data.starters} />}
      <Grid templateColumns={{ base: "1fr 1fr", lg: "repeat(4, 1fr)" }} gap={{ base: "2", md: "3" }}>
        {moves.map(({ name: one }) => (
          <chakra.button
            key={one}
            type="button"
            display="flex"
            gap={{ base: "2", md: "4" }}
            alignItems="center"
            px={{ base: "2", md: "4" }}
            minH="60px"
            borderRadius="6px"
            textAlign="left"
            fontWeight="700"
            cursor="pointer"
            bg={ask.moves === one ? "button" : "card"}
            color={ask.moves === one ? "buttonText" : "ink"}
            border="1.5px solid"
            borderColor={ask.moves === one ? "button" : "card"}
            _hover={{ borderColor: "accent" }}
            aria-pressed={ask.moves === one}
            onClick={() => put({ moves: one })}
          >
            <Mark moves={one} />
            {one}
          </chakra.button>
        ))}
      </Grid>
      {ask.moves && missing.length === 0 && (
        <>
          <chakra.p
            fontSize={{ base: "19px", md: "23px" }}
            lineHeight="1.75"
            mt="5"
            mb="4"
            data-testid="intention"
          >
            {ask.moves[0]?.toUpperCase()}
            {ask.moves.slice(1)}, of
            <Typed
              label="What it is about"
              value={ask.of ?? ""}
              hint="what it is about"
              onTake={(of) => put({ of })}
            />
            at
            <chakra.select
              {...word}
              aria-label="Place"
              value={place}
              onChange={(event) => put({ place: event.target.value })}
            >
              {places.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </chakra.select>
            , on
            <chakra.input
              {...word}
              type="date"
              aria-label="Date"
              className="figure"
              value={now?.date ?? ""}
              onChange={(event) => event.target.value && put({ when: event.target.value })}
            />
            or
            <chakra.select
              {...word}
              fontWeight="400"
              aria-label="When"
              value={
                ["now", "tonight", "best"].includes(ask.when ?? "tonight") ? (ask.when ?? "tonight") : ""
              }
              onChange={(event) => put({ when: event.target.value })}
            >
              <option value="" hidden />
              <option value="tonight">tonight</option>
              <option value="now">now</option>
              <option value="best">the best night of the next 30</option>
            </chakra.select>
            {moves.find(({ name }) => name === ask.moves)?.morning && (
              <chakra.select
                {...word}
                fontWeight="400"
                aria-label="Evening or morning"
                value={ask.comes ? "morning" : "evening"}
                onChange={(event) => put({ comes: event.target.value === "morning" })}
              >
                <option>evening</option>
                <option>morning</option>
              </chakra.select>
            )}
            , with
            <Piece
              label="Body"
              options={bodies}
              value={ask.body ?? now?.body}
              onChoose={(body) => put({ body, lens: undefined })}
            />
            through
            <Piece
              label="Lens"
              options={lenses}
              value={ask.lens ?? now?.lens}
              onChoose={(lens) => put({ lens })}
            />
            ,
            <chakra.select
              {...word}
              aria-label="What moves the camera"
              value={ask.movers?.length ? ask.movers.join(" ") : ""}
              onChange={(event) => put({ movers: event.target.value ? event.target.value.split(" ") : [] })}
            >
              <option value="">standing still</option>
              {movers.map((one) => (
                <option key={one.id} value={one.id}>
                  on {one.name}
                </option>
              ))}
              {movers.length > 1 && (
                <option value={movers.map((one) => one.id).join(" ")}>
                  on {movers.map((one) => one.name).join(" and ")}
                </option>
              )}
            </chakra.select>
            , for
            <chakra.select
              {...word}
              aria-label="The film is for"
              value={ask.use ?? "for oneself"}
              onChange={(event) => put({ use: event.target.value as Ask["use"] })}
            >
              {uses.map((one) => (
                <option key={one} value={one}>
                  {one === "for oneself" ? "oneself" : one}
                </option>
              ))}
            </chakra.select>
            ,
            <Typed
              label="How long a film"
              value={ask.film || now?.film || ""}
              hint="20 s"
              onTake={(film) => put({ film })}
              figure
            />
            .
          </chakra.p>
          <Planned
            pieces={[...bodies, ...lenses, ...movers]}
            chosen={[now?.body, now?.lens, ...(ask.movers ?? [])]}
          />
          {draft.error && (
            <Box mb="4">
              <Said>{draft.error.message}</Said>
              {refused?.path.startsWith("kit") && (
                <Box fontSize="14px" mt="1">
                  Choose other gear above, or add it under <Leads to="/kit">Kit</Leads>.
                </Box>
              )}
            </Box>
          )}
          <Grid templateColumns={{ base: "minmax(0, 1fr)", lg: "minmax(0, 5fr) minmax(0, 7fr)" }} gap="4">
            {nights.data && now && (
              <Nights
                rows={nights.data}
                chosen={now.date}
                onChoose={(when) => put({ when })}
                calendar={() => void downloadNights({ moves: ask.moves as Ask["moves"], place, count: 60 })}
              />
            )}
            {now && !draft.error && (
              <Decided
                draft={now}
                busy={draft.isFetching}
                onEdit={(edit) => setAsk((before) => ({ ...before, edits: [...(before.edits ?? []), edit] }))}
                onDesk={() => save.mutate()}
                saving={save.isPending}
                fault={save.error?.message}
              />
            )}
          </Grid>
        </>
      )}
    </Shell>
  );
}

async function downloadNights(body: Schemas["NightsAsk"]) {
  const text = await told(api.POST("/api/begin/nights/calendar", { body, parseAs: "text" }));
  download(String(text), "nights.ics", "text/calendar");
}

function Piece(props: {
  label: string;
  options: Schemas["Choosable"][];
  value: string | null | undefined;
  onChoose: (id: string) => void;
}) {
  const { label, options, value, onChoose } = props;
  return (
    <chakra.select
      {...word}
      aria-label={label}
      value={value ?? ""}
      onChange={(event) => onChoose(event.target.value)}
    >
      {!value && <option value="" />}
      {options.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </chakra.select>
  );
}

/** What else the chosen gear is planned for. */
function Planned({ pieces, chosen }: { pieces: Schemas["Choosable"][]; chosen: (string | undefined)[] }) {
  const busy = pieces.filter((one) => one.told && chosen.includes(one.id));
  return busy.length === 0 ? null : (
    <Box fontSize="14px" color="inkSoft" mb="3" data-testid="planned">
      {busy.map((one) => (
        <div key={one.id}>
          {one.name} is planned for: {one.told}.
        </div>
      ))}
    </Box>
  );
}

/** An empty start: gear of a kind with sensible figures, and the way to a first place. */
function First({ missing, starters }: { missing: string[]; starters: Schemas["Choosable"][] }) {
  const gear = missing.some((one) => one !== "place");
  return (
    <Panel title="First, what there is" mb="4">
      {gear && (
        <>
          <chakra.p mt="1" mb="2">
            What do you film with? Usual figures are filled in; put your own in their place under{" "}
            <Leads to="/kit">Kit</Leads>.
          </chakra.p>
          <Starters offered={starters} />
        </>
      )}
      {!gear && (
        <chakra.p mt="1">
          Where do you film? The sky is worked out for a place: <Leads to="/places">add the first one</Leads>,
          with latitude, longitude and its time zone.
        </chakra.p>
      )}
    </Panel>
  );
}
