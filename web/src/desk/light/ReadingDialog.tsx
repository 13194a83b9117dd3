import { chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { api, Refused, type Shot, told } from "../../api/client";
import { Field, Fields, Typing } from "../../app/Field";
import { Action, Said } from "../../app/parts";
import { Sheet } from "../sheets/Sheet";

const FIELDS = [
  ["clock", "Time", "at the place"],
  ["aperture", "Aperture", "f/"],
  ["shutter", "Shutter", "1/125 or 2s"],
  ["iso", "ISO", ""],
  ["lux", "or illuminance", "lx"],
  ["by", "Who read it, with what", ""],
] as const;

type Note = Record<(typeof FIELDS)[number][0], string>;

/** Notes what a meter said at the place, so that the scene's light is known and not guessed. */
export function ReadingDialog(props: {
  shot: Shot;
  open: boolean;
  onClose: () => void;
  onTake: (shot: Shot) => void;
}) {
  const { shot, open, onClose, onTake } = props;
  const [note, setNote] = useState<Note>({ clock: "", aperture: "", shutter: "", iso: "", lux: "", by: "" });
  const [refused, setRefused] = useState<Refused | null>(null);
  const take = async () => {
    try {
      onTake(await told(api.POST("/api/programs/reading", { body: { shot, note } })));
      setRefused(null);
      onClose();
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setRefused(error);
    }
  };
  const named = FIELDS.some(([name]) => refused?.path.endsWith(name));
  return (
    <Sheet title="A meter reading" open={open} onClose={onClose}>
      <chakra.p fontSize="14px" color="inkSoft" mb="3">
        Settings that were right for this scene, or what a light meter showed. The cloud of the sentence
        counts as the cloud of that moment.
      </chakra.p>
      <Fields>
        {FIELDS.map(([name, label, unit]) => (
          <Field
            key={name}
            label={label}
            unit={unit}
            fault={refused?.path.endsWith(name) ? refused.message : undefined}
          >
            {(id) => (
              <Typing
                id={id}
                name={name}
                autoComplete="off"
                className={name === "by" ? undefined : "figure"}
                value={note[name]}
                onType={(text) => setNote({ ...note, [name]: text })}
              />
            )}
          </Field>
        ))}
      </Fields>
      <Flex minH="7" mt="2">
        {refused && !named && <Said>{refused.message}</Said>}
      </Flex>
      <Flex gap="3">
        <Action strong onClick={() => void take()} data-testid="take-reading">
          Calibrate with it
        </Action>
        {shot.light.reading && (
          <Action onClick={() => onTake({ ...shot, light: { ...shot.light, reading: null } })}>
            Forget the reading
          </Action>
        )}
        <Action ml="auto" onClick={onClose}>
          Leave it
        </Action>
      </Flex>
    </Sheet>
  );
}
