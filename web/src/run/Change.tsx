import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Choice, Field, Typing } from "../app/Field";
import { Action, Said } from "../app/parts";

type RunView = Schemas["RunView"];
type Kind = Schemas["RunChange"]["kind"];

/** What each change is called, what is typed for it, and with which value it begins. */
const WORDS: Record<Kind, { name: string; amount?: string; begins?: string }> = {
  pause: { name: "Pause" },
  resume: { name: "Go on" },
  "skip a leg": { name: "Skip this leg" },
  brighter: { name: "Brighter or darker", amount: "stops, darker with a minus", begins: "0.3" },
  extend: { name: "Longer", amount: "frames more", begins: "60" },
  "end early": { name: "End earlier", amount: "last frame" },
  nudge: { name: "Nudge the end", amount: "mm or degrees, back with a minus", begins: "10" },
};

/** Changes what is left of a run that goes on: each with who did it, and told first what it comes to. */
export function Change(props: {
  run: RunView;
  who: string;
  onWho: (who: string) => void;
  onRun: (run: RunView) => void;
}) {
  const { run, who, onWho, onRun } = props;
  const [open, setOpen] = useState<Kind | null>(null);
  const [amount, setAmount] = useState("");
  const moving = run.moving ?? [];
  const [axis, setAxis] = useState<NonNullable<RunView["moving"]>[number] | null>(null);
  const body = {
    kind: open ?? "pause",
    amount: Number(amount) || 0,
    axis: open === "nudge" ? (axis ?? moving[0]) : null,
    by: who,
  };
  const outlook = useQuery({
    queryKey: ["outlook", run.id, open, amount, axis],
    queryFn: () =>
      told(api.POST("/api/runs/{id}/change/outlook", { params: { path: { id: run.id } }, body })),
    enabled: open !== null && amount !== "",
    retry: false,
  });
  const change = useMutation({
    mutationFn: (order: Schemas["RunChange"]) =>
      told(api.POST("/api/runs/{id}/change", { params: { path: { id: run.id } }, body: order })),
    onSuccess: (view) => {
      onRun(view);
      setOpen(null);
    },
  });
  const can = run.can_change ?? [];
  if (can.length === 0) return null;
  const choose = (kind: Kind) => {
    const { amount: typed, begins } = WORDS[kind];
    if (!typed) {
      change.mutate({ kind, amount: 0, by: body.by });
      return;
    }
    setOpen(open === kind ? null : kind);
    setAmount(begins ?? String(Math.max((run.next_number ?? 1) + 1, 1)));
  };
  return (
    <Box px={{ base: "4", md: "10" }} pt="6" data-testid="change">
      <Flex gap="3" align="end" wrap="wrap">
        {can.map((kind) => (
          <Action
            key={kind}
            minH="12"
            fontSize="18px"
            strong={kind === "resume" || open === kind}
            disabled={change.isPending}
            data-change={kind}
            aria-expanded={WORDS[kind].amount ? open === kind : undefined}
            onClick={() => choose(kind)}
          >
            {WORDS[kind].name}
          </Action>
        ))}
        <Box ml={{ md: "auto" }} width="220px">
          <Field label="Your name, for the journal">
            {(id) => <Typing id={id} name="who" value={who} maxLength={60} onType={onWho} />}
          </Field>
        </Box>
      </Flex>
      {open && (
        <chakra.form
          mt="3"
          display="flex"
          gap="3"
          alignItems="end"
          flexWrap="wrap"
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate(body);
          }}
        >
          {open === "nudge" && (
            <Box width="120px">
              <Field label="Axis">
                {(id) => (
                  <Choice
                    id={id}
                    value={axis ?? moving[0] ?? ""}
                    options={moving.map((name) => [name, name] as const)}
                    onChoose={(name) => setAxis(moving.find((one) => one === name) ?? null)}
                  />
                )}
              </Field>
            </Box>
          )}
          <Box width="280px">
            <Field label={WORDS[open].name} unit={WORDS[open].amount}>
              {(id) => (
                <Typing
                  id={id}
                  name="amount"
                  inputMode="text"
                  className="figure"
                  value={amount}
                  autoFocus
                  onType={setAmount}
                />
              )}
            </Field>
          </Box>
          <Action
            type="submit"
            strong
            minH="12"
            disabled={change.isPending || !outlook.data}
            data-testid="change-now"
          >
            Change it
          </Action>
          <Box flex="1" minW="260px" data-testid="outlook">
            {outlook.data?.told}
            {outlook.error && <Said>{outlook.error.message}</Said>}
          </Box>
        </chakra.form>
      )}
      {change.error && <Said>{change.error.message}</Said>}
      {(run.changes ?? []).map((one) => (
        <Box key={one} mt="2" color="inkSoft">
          {one}
        </Box>
      ))}
    </Box>
  );
}
