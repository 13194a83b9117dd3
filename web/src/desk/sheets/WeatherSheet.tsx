import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Shot, told } from "../../api/client";
import { control, Entry, Field } from "../../app/Field";
import { Action, Said } from "../../app/parts";
import type { DeskState } from "../useDesk";
import { Sheet } from "./Sheet";

/** The weather of the shot's place by the hour: typed, pasted, or from a file; every shot there is planned with it. */
export function WeatherSheet(props: { desk: DeskState; shot: Shot; open: boolean; onClose: () => void }) {
  const { desk, shot, open, onClose } = props;
  const [text, setText] = useState("");
  const [day, setDay] = useState<string | null>(null);
  const note = useMutation({
    mutationFn: async () => {
      const noted = await told(
        api.POST("/api/places/{id}/weather", {
          params: { path: { id: String(shot.place.id) } },
          body: { day: day ?? shot.date, text },
        }),
      );
      await desk.put((now) => ({ ...now, place: noted.place.document }));
      return noted;
    },
    onSuccess: () => setText(""),
  });
  const hours = shot.place.weather ?? [];
  return (
    <Sheet
      title={`Weather at ${shot.place.name}`}
      open={open}
      onClose={onClose}
      width="620px"
      testId="weather"
    >
      <chakra.p fontSize="14px" color="inkSoft" mb="2">
        A line an hour: hour, temperature, humidity, cloud, wind; such as{" "}
        <span className="figure">21:00, 4, 88 %, 40 %, 3 m/s</span>. What is not known stays empty. An hour
        earlier than the one before is of the next day.
      </chakra.p>
      <Field label="Begins on">
        {(id) => <Entry id={id} type="date" value={day ?? shot.date} onTake={setDay} />}
      </Field>
      <chakra.textarea
        {...control}
        aria-label="Hours"
        className="figure"
        rows={9}
        mt="2"
        py="1"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Flex gap="3" mt="2" align="center" wrap="wrap">
        <Action
          strong
          disabled={!text.trim() || note.isPending}
          onClick={() => note.mutate()}
          data-testid="note-weather"
        >
          Note it
        </Action>
        <chakra.label cursor="pointer" fontSize="14px">
          or from a file{" "}
          <input
            type="file"
            accept=".csv,.txt,text/csv,text/plain"
            onChange={async (event) => {
              const file = event.target.files?.[0];
              if (file) setText(await file.text());
              event.target.value = "";
            }}
          />
        </chakra.label>
      </Flex>
      {note.error && <Said>{note.error.message}</Said>}
      {note.data && (
        <Box role="status" fontSize="14px" mt="2">
          {note.data.told}
        </Box>
      )}
      <chakra.p fontSize="14px" color="inkSoft" mt="3">
        {hours.length === 0
          ? "Nothing is noted: the place's usual cold and the shot's cloud are planned with."
          : `${hours.length} hours are noted here.`}
      </chakra.p>
    </Sheet>
  );
}
