import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, type Shot, told } from "../../api/client";
import { download } from "../../app/download";
import { Choice, Entry, Field, Fields } from "../../app/Field";
import { Action, Said } from "../../app/parts";
import { FramedView } from "../move/FramedView";
import type { DeskState } from "../useDesk";
import { Sheet } from "./Sheet";

type Ask = Schemas["StandsAsk"];

const BODIES = ["sun", "moon", "galactic core"] as const;

/** When sun, moon or core stand behind a thing, at a place in the picture, or in a direction; one dates the shot. */
export function StandsThere(props: {
  desk: DeskState;
  shot: Shot;
  number: number;
  open: boolean;
  onClose: () => void;
}) {
  const { desk, shot, number, open, onClose } = props;
  const [body, setBody] = useState<Ask["body"]>("sun");
  const [within, setWithin] = useState("0.5");
  const things = shot.move?.things ?? [];
  const [point, setPoint] = useState<Partial<Ask>>(
    things.length ? { thing: 0 } : { across: 0.5, down: 0.5, number },
  );
  const ask = { shot, body, within_deg: Number(within.replace(",", ".")) || 0.5, ...point } as Ask;
  const answer = useQuery({
    queryKey: ["stands", ask],
    queryFn: ({ signal }) => told(api.POST("/api/begin/stands", { body: ask, signal })),
    enabled: open,
    placeholderData: (before) => before,
    retry: false,
  });
  const panel = useQuery({
    queryKey: ["framed", shot, number],
    queryFn: ({ signal }) => told(api.POST("/api/programs/light", { body: { shot, number }, signal })),
    enabled: open && point.across !== undefined,
    placeholderData: (before) => before,
  });
  const take = async (row: Schemas["Stand"]) => {
    const edits = [
      { field: "date", text: row.date, free: false },
      { field: "start", text: row.start, free: false },
    ];
    if ((await desk.put((now) => now, edits)) === null) onClose();
  };
  const calendar = async () => {
    const text = await told(api.POST("/api/begin/stands/calendar", { body: ask, parseAs: "text" }));
    download(String(text), "stands-there.ics", "text/calendar");
  };
  const chosen =
    point.thing !== undefined ? `thing ${point.thing}` : point.across !== undefined ? "picture" : "typed";
  return (
    <Sheet title="When does it stand there?" open={open} onClose={onClose} width="620px" testId="stands">
      <Fields>
        <Field label="What">
          {(id) => (
            <Choice
              id={id}
              value={body}
              options={BODIES.map((one) => [one, `the ${one}`] as const)}
              onChoose={(one) => setBody(one as Ask["body"])}
            />
          )}
        </Field>
        <Field label="Within" unit="°">
          {(id) => <Entry id={id} inputMode="decimal" value={within} onTake={setWithin} />}
        </Field>
        <Field label="Where">
          {(id) => (
            <Choice
              id={id}
              value={chosen}
              options={[
                ...things.map((one, i) => [`thing ${i}`, `at the top of: ${one.name}`] as const),
                ["picture", "at a place in the picture"] as const,
                ["typed", "in a direction"] as const,
              ]}
              onChoose={(one) =>
                setPoint(
                  one === "picture"
                    ? { across: 0.5, down: 0.5, number }
                    : one === "typed"
                      ? {
                          azimuth_deg: answer.data?.azimuth_deg ?? 180,
                          altitude_deg: answer.data?.altitude_deg ?? 5,
                        }
                      : { thing: Number(one.slice(6)) },
                )
              }
            />
          )}
        </Field>
        {chosen === "typed" && (
          <>
            <Field label="Azimuth" unit="° from north">
              {(id) => (
                <Entry
                  id={id}
                  inputMode="decimal"
                  value={point.azimuth_deg ?? ""}
                  onTake={(text) => setPoint((now) => ({ ...now, azimuth_deg: text as unknown as number }))}
                />
              )}
            </Field>
            <Field label="Height" unit="°">
              {(id) => (
                <Entry
                  id={id}
                  inputMode="decimal"
                  value={point.altitude_deg ?? ""}
                  onTake={(text) => setPoint((now) => ({ ...now, altitude_deg: text as unknown as number }))}
                />
              )}
            </Field>
          </>
        )}
      </Fields>
      {chosen === "picture" && (
        <Box mt="3">
          <chakra.p fontSize="14px" color="inkSoft" mb="1">
            Press on the place in the picture, or move the mark with the arrows.
          </chakra.p>
          {panel.data && (
            <FramedView
              view={panel.data.view}
              point={{ across: point.across ?? 0.5, down: point.down ?? 0.5 }}
              onPoint={(across, down) => setPoint({ across, down, number: panel.data.view.number })}
            />
          )}
        </Box>
      )}
      {answer.error && <Said>{answer.error.message}</Said>}
      {desk.fault && <Said>{desk.fault.message}</Said>}
      {answer.data && (
        <Box mt="3">
          <chakra.p fontSize="14px" color="inkSoft">
            {answer.data.told}; in the next year, {answer.data.rows.length === 0 ? "never" : ""}
            {answer.data.rows.length > 0 && `${answer.data.rows.length} ×`}
          </chakra.p>
          <Box maxH="320px" overflowY="auto" data-testid="stands-rows">
            {answer.data.rows.map((row) => (
              <Flex
                key={row.at_s}
                py="1.5"
                gap="3"
                align="center"
                borderBottom="1px solid"
                borderColor="line"
              >
                <chakra.span className="figure" fontSize="14px">
                  {row.told}
                </chakra.span>
                <Action
                  ml="auto"
                  minH="8"
                  aria-label={`Film it on ${row.date}`}
                  onClick={() => void take(row)}
                >
                  Film it then
                </Action>
              </Flex>
            ))}
          </Box>
          {answer.data.rows.length > 0 && (
            <Action mt="3" onClick={() => void calendar()}>
              As a calendar
            </Action>
          )}
        </Box>
      )}
    </Sheet>
  );
}
