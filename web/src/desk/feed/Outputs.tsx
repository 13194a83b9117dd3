import { chakra } from "@chakra-ui/react";
import { api, type Plan, type Schemas, told } from "../../api/client";
import { Choosing, Panel } from "../../app/parts";
import { useOnceQuiet } from "../asking";
import { Beside } from "../beside";
import { Cell, Head } from "../cells";
import type { DeskState } from "../useDesk";

/** What can come out of the shot, side by side, with what each costs; one press chooses it. */
export function Outputs({ desk, plan }: { desk: DeskState; plan: Plan }) {
  const { answer: outputs } = useOnceQuiet<Schemas["Output"][]>(
    (signal) => told(api.POST("/api/programs/outputs", { body: plan.shot, signal })),
    [plan],
  );
  if (!outputs) return null;
  const chosen = (output: Schemas["Output"]) => output.choose.map((one) => ({ ...one, free: false }));
  return (
    <Panel title="What comes out" mt="4" overflowX="auto">
      <chakra.table width="100%" fontSize="14px" data-testid="outputs">
        <thead>
          <tr>
            <Head>what</Head>
            <Head>pixels</Head>
            <Head>crop at 1,920 px</Head>
            <Head>on the card</Head>
            <Head>files</Head>
            <Head>room to grade</Head>
            <Head>work at home</Head>
            <Head>lost if it breaks off</Head>
            <Head />
          </tr>
        </thead>
        <tbody>
          {outputs.map((one) => (
            <chakra.tr key={one.name} borderTop="1px solid" borderColor="line" data-output={one.name}>
              <Cell fontWeight={one.chosen ? "700" : "400"}>{one.name}</Cell>
              <Cell className="figure">{one.pixels}</Cell>
              <Cell className="figure">{one.crop_room}</Cell>
              <Cell className="figure">{one.size}</Cell>
              <Cell className="figure">{one.files}</Cell>
              <Cell className="figure">{one.room}</Cell>
              <Cell className="figure">{one.work}</Cell>
              <Cell whiteSpace="normal">{one.lost}</Cell>
              <Cell textAlign="right">
                <Choosing
                  name={one.name}
                  chosen={one.chosen}
                  onChoose={() => void desk.put((shot) => shot, chosen(one))}
                >
                  <Beside said={one.name} what={{ edits: chosen(one), name: one.name }} />
                </Choosing>
              </Cell>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </Panel>
  );
}
