import { Box, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, type Schemas, told } from "../api/client";
import { Choice, Field, Fields, Typing } from "../app/Field";
import { Action, Quiet, Said, Tick } from "../app/parts";
import { Sheet } from "../desk/sheets/Sheet";

export type RigView = Schemas["RigView"];
type RigEdit = Schemas["RigEdit"];

const PLAYED = {
  camera: [
    ["simulated:", "simulated"],
    ["simulated:ptpip", "simulated, as a body on a network"],
  ],
  mover: [["simulated:", "simulated"]],
} as const;
const EMPTY: RigEdit = {
  name: "",
  body: null,
  movers: [],
  camera: "simulated:",
  mover: "simulated:",
  runner: "",
  serial: "",
  mover_serial: "",
  archived: false,
};

const NUMBERS = [
  ["serial", "Its camera's number", "Another camera that answers is not fired. Empty: any."],
  ["mover_serial", "Its mover's number", "Another mover that answers moves nothing. Empty: any."],
] as const;

/** What is kept of a rig, as a change of it is sent. */
export const edited = (view: RigView, change: Partial<RigEdit> = {}): RigEdit => {
  const { key: _key, ports: _ports, ...rest } = view.rig;
  return { ...rest, archived: view.archived, ...change };
};

/** A rig as one says it: what it is made of, where it is found, whose runner drives it. */
export function RigForm(props: {
  rig: RigView | null;
  onClose: () => void;
  onKept: (rigs: RigView[]) => void;
}) {
  const { rig, onClose, onKept } = props;
  const [typed, setTyped] = useState<RigEdit>(rig ? edited(rig) : EMPTY);
  const gear = useQuery({
    queryKey: ["gear", false],
    queryFn: () => told(api.GET("/api/gear", { params: { query: { archived: false } } })),
  });
  const keep = useMutation({
    mutationFn: () =>
      rig
        ? told(
            api.PUT("/api/rigs/{key}", {
              params: { path: { key: rig.rig.key }, header: { "If-Match": rig.version } },
              body: typed,
            }),
          )
        : told(api.POST("/api/rigs", { body: typed })),
    onSuccess: (found) => {
      onKept(found);
      onClose();
    },
  });
  const change = (part: Partial<RigEdit>) => setTyped({ ...typed, ...part });
  const fault = (path: string) =>
    keep.error instanceof Refused
      ? (keep.error.faults.find((one) => one.path.split(/[./]/).at(-1) === path)?.allowed ?? undefined)
      : undefined;
  const of = (kind: string) => gear.data?.filter((one) => one.document.kind === kind) ?? [];
  const bodies = [
    ["", "not said"] as const,
    ...of("body").map((one) => [one.id, one.document.name] as const),
  ];
  const movers = typed.movers ?? [];
  const answering = { serial: rig?.answers, mover_serial: rig?.mover_answers };
  const elsewhere = ["name", "body", "movers", "camera", "mover", "runner", "serial", "mover_serial"].every(
    (p) => !fault(p),
  );
  return (
    <Sheet title={rig ? `Rig “${rig.rig.name}”` : "Another rig"} open onClose={onClose} testId="rig-form">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate();
        }}
      >
        <Fields>
          <Field label="Name" fault={fault("name")}>
            {(id) => (
              <Typing id={id} name="rig-name" value={typed.name} onType={(name) => change({ name })} />
            )}
          </Field>
          <Field label="Body" hint="Shots with this body are armed on it." fault={fault("body")}>
            {(id) => (
              <Choice
                id={id}
                name="rig-body"
                options={bodies}
                value={typed.body ?? ""}
                onChoose={(body) => change({ body: body || null })}
              />
            )}
          </Field>
          {(["camera", "mover"] as const).map((what) => (
            <Where
              key={what}
              what={what}
              value={typed[what] ?? ""}
              fault={fault(what)}
              onSay={(address) => change({ [what]: address })}
            />
          ))}
          {NUMBERS.map(([name, label, hint]) => (
            <Field key={name} label={label} hint={hint} fault={fault(name)}>
              {(id) => (
                <>
                  <Typing
                    id={id}
                    name={`rig-${name}`}
                    className="figure"
                    value={typed[name] ?? ""}
                    onType={(number) => change({ [name]: number })}
                  />
                  {answering[name] && answering[name] !== typed[name] && (
                    <Quiet onClick={() => change({ [name]: answering[name] })} data-testid={`take-${name}`}>
                      {answering[name]} answers now: take it
                    </Quiet>
                  )}
                </>
              )}
            </Field>
          ))}
          <Field label="Runner's machine" hint="Empty: this one." fault={fault("runner")}>
            {(id) => (
              <Typing
                id={id}
                name="rig-runner"
                value={typed.runner ?? ""}
                onType={(runner) => change({ runner })}
              />
            )}
          </Field>
        </Fields>
        {of("mover").length > 0 && (
          <Box mt="3">
            <Box color="inkSoft" fontSize="14px">
              Movers
            </Box>
            <Flex wrap="wrap" columnGap="5">
              {of("mover").map((one) => (
                <Tick
                  key={one.id}
                  of={`rig-mover-${one.id}`}
                  checked={movers.includes(one.id)}
                  onTick={(on) =>
                    change({ movers: on ? [...movers, one.id] : movers.filter((id) => id !== one.id) })
                  }
                >
                  {one.document.name}
                </Tick>
              ))}
            </Flex>
            {fault("movers") && <Said>{fault("movers")}</Said>}
          </Box>
        )}
        {keep.error && elsewhere && <Said>{keep.error.message}</Said>}
        <Flex gap="3" mt="4" justify="flex-end">
          <Action onClick={onClose}>Leave it</Action>
          <Action type="submit" strong disabled={keep.isPending} data-testid="keep-rig">
            {rig ? "Keep it" : "Add it"}
          </Action>
        </Flex>
      </form>
    </Sheet>
  );
}

/** Where gear is: played by Revani, or at an address. */
function Where(props: {
  what: "camera" | "mover";
  value: string;
  fault?: string;
  onSay: (address: string) => void;
}) {
  const { what, value, fault, onSay } = props;
  const played = PLAYED[what].some(([word]) => word === value);
  return (
    <Field label={what === "camera" ? "Camera" : "Mover"} fault={fault}>
      {(id) => (
        <>
          <Choice
            id={id}
            name={`rig-${what}`}
            options={[...PLAYED[what], ["", "at an address"]]}
            value={played ? value : ""}
            onChoose={onSay}
          />
          {!played && (
            <Typing
              mt="1"
              className="figure"
              aria-label={`Address of the ${what}`}
              name={`rig-${what}-at`}
              placeholder={what === "camera" ? "usb:// or ptpip://…" : "gcode://… or serial:/dev/…"}
              value={value}
              onType={onSay}
            />
          )}
        </>
      )}
    </Field>
  );
}
