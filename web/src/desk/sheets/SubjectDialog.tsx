import { chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Shot, told } from "../../api/client";
import { Choice, Field, Fields, Typing } from "../../app/Field";
import { Offer, Said } from "../../app/parts";
import { Sheet } from "./Sheet";

/** Suggests interval and shutter from what moves: a kind of subject, or a speed at a distance. */
export function SubjectDialog(props: {
  shot: Shot;
  open: boolean;
  onClose: () => void;
  onTake: (shot: Shot) => void;
}) {
  const { shot, open, onClose, onTake } = props;
  const [kind, setKind] = useState<string | null>(null);
  const [speed, setSpeed] = useState("");
  const [distance, setDistance] = useState("");
  const moving = speed.trim() && distance.trim() ? { speed_m_s: speed, distance_m: distance } : { kind };
  const answer = useQuery({
    queryKey: ["subject", shot, moving],
    queryFn: () => told(api.POST("/api/programs/subject", { body: { shot, moving } })),
    enabled: open,
    placeholderData: (before) => before,
  });
  return (
    <Sheet title="Interval from the subject" open={open} onClose={onClose}>
      <Field label="What moves">
        {(id) => (
          <Choice
            id={id}
            value={kind ?? answer.data?.kinds[0] ?? ""}
            options={(answer.data?.kinds ?? []).map((name) => [name, name] as const)}
            onChoose={setKind}
          />
        )}
      </Field>
      <chakra.p fontSize="14px" color="inkSoft" my="2">
        Or, better, from how fast it goes across the view:
      </chakra.p>
      <Fields>
        <Field label="Speed" unit="such as 2 m/s, 3 mph">
          {(id) => <Typing id={id} name="speed" className="figure" value={speed} onType={setSpeed} />}
        </Field>
        <Field label="Distance" unit="such as 40 m, 120 ft">
          {(id) => (
            <Typing id={id} name="distance" className="figure" value={distance} onType={setDistance} />
          )}
        </Field>
      </Fields>
      {answer.error && <Said>{answer.error.message}</Said>}
      <Flex direction="column" gap="2" mt="4">
        {answer.data?.suggestions.map((one) => (
          <Offer
            key={one.reads}
            data-reads={one.reads}
            label={`A frame every ${one.interval}: reads ${one.reads}`}
            told={one.told}
            onClick={() => {
              onTake(one.shot);
              onClose();
            }}
          />
        ))}
      </Flex>
    </Sheet>
  );
}
