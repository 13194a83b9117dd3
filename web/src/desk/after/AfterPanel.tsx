import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { memo, useCallback, useRef, useState } from "react";
import { api, type Plan, type Schemas, told } from "../../api/client";
import { outputEdit } from "../../api/outputEdit";
import { Action, Offer, Panel, Said } from "../../app/parts";
import type { LayerEdits } from "../../loom/LightLayer";
import { useOnceQuiet } from "../asking";
import { Files } from "../move/Files";
import { usePicture } from "../pictures";
import { Value } from "../Sentence";
import type { DeskState } from "../useDesk";
import { RowAction, WordTable } from "../WordTable";
import { Finder, type Outline } from "./Finder";

type PanelOf = Schemas["OutputPanel"];
type Row = PanelOf["outputs"][number];

/** What is made of the shot afterwards: its outputs in the finder, their pictures, their keys. */
export function AfterPanel(props: {
  desk: DeskState;
  plan: Plan;
  number: number;
  at: number;
  edits: LayerEdits;
}) {
  const { desk, plan, number, at, edits } = props;
  const wanted = Math.min(number, plan.solved.frame_count);
  const [chosen, setChosen] = useState(0);
  const { answer: panel, refused } = useOnceQuiet<PanelOf>(
    (signal) =>
      told(api.POST("/api/programs/afterwards", { body: { shot: plan.shot, number: wanted }, signal })),
    [plan, wanted],
  );
  const shotNow = useRef(plan.shot);
  shotNow.current = plan.shot;
  const [said, setSaid] = useState("");
  const own = useQuery({ queryKey: ["own"], queryFn: () => told(api.GET("/api/own")) });
  const source = usePicture(plan.shot, wanted, null);
  const output = panel?.outlines.some((one) => one.index === chosen) ? chosen : undefined;
  const cut = usePicture(plan.shot, wanted, output);
  const shift = useCallback(
    (outline: Outline, by: Record<string, number>, end: boolean) => {
      const edit = outputEdit("shift", { output: outline.index, at_s: outline.film_s, values: by });
      if (end) edits.commit(edit);
      else edits.preview(edit);
    },
    [edits],
  );
  if (!panel) return refused ? <Said>{refused}</Said> : null;
  const row = panel.outputs.find((one) => one.index === chosen) ?? panel.outputs[0];
  const outline = panel.outlines.find((one) => one.index === row?.index);
  const add = () => {
    edits.commit(outputEdit("add"));
    setChosen(panel.outputs.length);
  };
  return (
    <Box data-testid="after-panel">
      {row ? (
        <Panel mb="4">
          <Flex gap="2" wrap="wrap" mb="3" role="tablist" aria-label="Outputs">
            {panel.outputs.map((one) => (
              <Action
                key={one.index}
                role="tab"
                aria-selected={one.index === row.index}
                strong={one.index === row.index}
                onClick={() => setChosen(one.index)}
              >
                {one.line[0]?.text}
              </Action>
            ))}
            <Action onClick={add} data-testid="add-output">
              Another output
            </Action>
          </Flex>
          <Grid
            templateColumns={{ base: "1fr", xl: panel.sphere ? "3fr 2fr" : "2fr 1fr" }}
            gap="4"
            alignItems="start"
          >
            <Finder panel={panel} picture={source} chosen={row.index} onChoose={setChosen} onShift={shift} />
            <Box>
              {cut && outline && (
                <chakra.img
                  src={cut}
                  alt={`What ${outline.name} shows at frame ${panel.number}`}
                  data-testid="cut"
                  maxW="100%"
                  maxH="300px"
                  border="1px solid"
                  borderColor="line"
                />
              )}
              {row.told.map((line) => (
                <chakra.p key={line} fontSize="14px" mt="1.5">
                  {line}
                </chakra.p>
              ))}
            </Box>
          </Grid>
          <Words words={row.line} desk={desk} size="18px" />
          <Words words={row.more} desk={desk} size="15px" />
          <Flex gap="2" mt="2" wrap="wrap">
            {outline && (
              <Action
                data-testid="crop-key"
                onClick={() =>
                  edits.commit(outputEdit("put key", { output: row.index, at_s: outline.film_s }))
                }
              >
                Key at this frame
              </Action>
            )}
            {panel.things.map((thing) => (
              <Action
                key={thing}
                data-follow={thing}
                onClick={() => edits.commit(outputEdit("follow", { output: row.index, name: thing }))}
              >
                Go after {thing}
              </Action>
            ))}
            {outline && (
              <Action
                data-testid="other-speed"
                onClick={() => edits.commit(outputEdit("other speed", { output: row.index, wall_s: at }))}
              >
                Faster from here on
              </Action>
            )}
            {row.sections > 0 && (
              <Action onClick={() => edits.commit(outputEdit("one speed", { output: row.index }))}>
                One speed
              </Action>
            )}
            {(panel.sphere ? [] : (own.data ?? [])).map((folder) => (
              <Action
                key={folder}
                onClick={() =>
                  void told(
                    api.POST("/api/shakes", {
                      body: { shot: shotNow.current, output: row.index, own: folder },
                    }),
                  ).then(desk.takeShot, (error: Error) => setSaid(error.message))
                }
              >
                Shake as in {folder}
              </Action>
            ))}
            {row.keys.length > 0 && (
              <Action onClick={() => edits.commit(outputEdit("clear", { output: row.index }))}>
                No keys
              </Action>
            )}
            <Action
              ml="auto"
              onClick={() => {
                edits.commit(outputEdit("take out", { output: row.index }));
                setChosen(0);
              }}
            >
              Remove this output
            </Action>
          </Flex>
          {said && <Said>{said}</Said>}
          <Keys row={row} desk={desk} edits={edits} />
          <Files
            about="outputs"
            label="Keys from JSON …"
            accept=".json,application/json"
            testId="outputs-file"
            onRead={(shot, json_text) =>
              told(api.POST("/api/programs/outputs-in", { body: { shot, json_text } }))
            }
            shotNow={() => shotNow.current}
            onTake={desk.takeShot}
          />
        </Panel>
      ) : (
        <Panel mb="4">
          <chakra.p fontSize="15px" mb="3">
            A film of another shape, a push-in, a move within the picture, a picture out of a sphere: plan
            them here, and you will know how much wider to frame before you film.
          </chakra.p>
          <Action strong onClick={add} data-testid="add-output">
            Add an output
          </Action>
        </Panel>
      )}
      {row && (
        <Panel title="Ways to begin with">
          <Flex gap="2" wrap="wrap">
            {panel.beginnings.map((one) => (
              <Offer
                key={one.name}
                maxW="260px"
                data-beginning={one.name}
                label={one.name}
                told={one.told}
                onClick={() => edits.commit(outputEdit("begin", { output: row.index, name: one.name }))}
              />
            ))}
          </Flex>
        </Panel>
      )}
    </Box>
  );
}

function Words({ words, desk, size }: { words: Row["line"]; desk: DeskState; size: string }) {
  return (
    <chakra.p fontSize={size} lineHeight="1.7" mt="2">
      {words.map((word, place) =>
        word.field ? (
          <Value key={word.field} word={{ ...word, field: word.field }} desk={desk} />
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: stretches of text stand still
          <span key={place}>{word.text}</span>
        ),
      )}
    </chakra.p>
  );
}

interface KeysProps {
  row: Row;
  desk: DeskState;
  edits: LayerEdits;
}

// Many fields: drawn anew when their words or a refusal change, not with every step of the plumb line.
const sameKeys = (a: KeysProps, b: KeysProps) =>
  a.row.keys === b.row.keys &&
  a.row.index === b.row.index &&
  a.edits === b.edits &&
  a.desk.fault === b.desk.fault;

const Keys = memo(function Keys({ row, desk, edits }: KeysProps) {
  if (!row.keys.length)
    return (
      <chakra.p fontSize="14px" mt="3">
        No key yet: it stands still in the middle. Drag its frame in the finder, or begin with one of the ways
        below.
      </chakra.p>
    );
  return (
    <WordTable
      heads={["key", ...row.columns]}
      rows={row.keys}
      desk={desk}
      testId="crop-keys"
      numbered
      actions={(index) => (
        <RowAction
          aria-label={`Remove key ${index + 1}`}
          onClick={() => edits.commit(outputEdit("take key", { output: row.index, index }))}
        >
          Remove
        </RowAction>
      )}
    />
  );
}, sameKeys);
