import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../api/client";
import { Action, Panel, Quiet, Said, StateMark, Waiting } from "../app/parts";
import { Shell } from "../app/Shell";
import { Drills } from "./Drills";
import { Outlets } from "./Outlets";
import { edited, RigForm, type RigView } from "./RigForm";
import { Sensors } from "./Sensors";
import { TryGear } from "./TryGear";

const LOOK_MS = 2_000;

/** The rigs and what they say just now, what answers at one of them, and where alarms go out to. */
export default function Rigs() {
  const queries = useQueryClient();
  const rigs = useQuery({
    queryKey: ["rigs"],
    queryFn: () => told(api.GET("/api/rigs")),
    refetchInterval: LOOK_MS,
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const [form, setForm] = useState<RigView | "new" | null>(null);
  const keep = (found: RigView[]) => queries.setQueryData(["rigs"], found);
  const all = rigs.data ?? [];
  const driven = all.filter((one) => !one.archived);
  const at = driven.find((one) => one.rig.key === chosen) ?? driven.find((one) => one.own) ?? driven[0];
  return (
    <Shell title={<b>Rigs</b>} tab="Rigs">
      <Grid templateColumns={{ base: "minmax(0, 1fr)", lg: "1fr 1fr" }} gap="5" alignItems="start">
        <Flex direction="column" gap="5" minW="0">
          <Panel title="What is linked, and what it says">
            {rigs.error && <Said>{rigs.error.message}</Said>}
            {!rigs.data && !rigs.error && <Waiting />}
            {all.map((one) => (
              <OneRig
                key={one.rig.key}
                view={one}
                chosen={driven.length > 1 ? one === at : undefined}
                onChoose={() => setChosen(one.rig.key)}
                onChange={() => setForm(one)}
                onKept={keep}
              />
            ))}
            <Action mt="3" minH="11" onClick={() => setForm("new")} data-testid="add-rig">
              Add another rig
            </Action>
          </Panel>
          {at && <TryGear key={at.rig.key} rig={at.rig.key} name={driven.length > 1 ? at.rig.name : ""} />}
        </Flex>
        <Flex direction="column" gap="5" minW="0">
          {at && <Sensors key={at.rig.key} rig={at.rig.key} name={driven.length > 1 ? at.rig.name : ""} />}
          <Outlets />
          {at && <Drills key={at.rig.key} rig={at.rig.key} name={driven.length > 1 ? at.rig.name : ""} />}
        </Flex>
      </Grid>
      {form && <RigForm rig={form === "new" ? null : form} onClose={() => setForm(null)} onKept={keep} />}
    </Shell>
  );
}

/** One rig: what it is made of, what it says, and what can be done with it. */
function OneRig(props: {
  view: RigView;
  /** Undefined where there is no other to choose. */
  chosen?: boolean;
  onChoose: () => void;
  onChange: () => void;
  onKept: (rigs: RigView[]) => void;
}) {
  const { view, chosen, onChoose, onChange, onKept } = props;
  const { rig, archived, tone } = view;
  const put = useMutation({
    mutationFn: () =>
      told(
        api.PUT("/api/rigs/{key}", {
          params: { path: { key: rig.key }, header: { "If-Match": view.version } },
          body: edited(view, { archived: !archived }),
        }),
      ),
    onSuccess: onKept,
  });
  const remove = useMutation({
    mutationFn: () => told(api.DELETE("/api/rigs/{key}", { params: { path: { key: rig.key } } })),
    onSuccess: onKept,
  });
  const error = remove.error ?? put.error;
  return (
    <Box
      py="2"
      pl={chosen === undefined ? undefined : "3"}
      borderLeft={chosen === undefined ? undefined : "4px solid"}
      borderColor={chosen ? "accent" : "line"}
      mb="2"
      data-rig={rig.key}
    >
      <Flex gap="3" wrap="wrap" align="baseline">
        <chakra.h3 fontSize="18px" fontWeight="700" display="flex" gap="2" alignItems="center">
          <StateMark
            severity={archived ? "unseen" : tone === "good" ? "good" : tone === "mind" ? "mind" : "stop"}
          />{" "}
          {rig.name}
        </chakra.h3>
        <Flex gap="3" ml="auto" wrap="wrap">
          {chosen === false && !archived && (
            <Quiet minH="9" onClick={onChoose} aria-label={`Look at: ${rig.name}`}>
              Look at it
            </Quiet>
          )}
          {!archived && (
            <Quiet minH="9" onClick={onChange} aria-label={`Change: ${rig.name}`}>
              Change
            </Quiet>
          )}
          {!view.own && (
            <Quiet minH="9" onClick={() => put.mutate()} disabled={put.isPending}>
              {archived ? "Take it back" : "Put away"}
            </Quiet>
          )}
          {archived && (
            <Quiet minH="9" onClick={() => remove.mutate()} disabled={remove.isPending}>
              Delete
            </Quiet>
          )}
        </Flex>
      </Flex>
      <Box>{view.told}</Box>
      {error && <Said>{error.message}</Said>}
      {!archived && (
        <Grid as="dl" templateColumns="150px minmax(0, 1fr)" columnGap="4" rowGap="1" mt="2">
          {[...(view.gear ? [{ label: "made of", text: view.gear }] : []), ...view.says].map((one) => (
            <Box key={one.label} display="contents">
              <chakra.dt color="inkSoft">{one.label}</chakra.dt>
              <chakra.dd className="figure" overflowWrap="anywhere">
                {one.text}
              </chakra.dd>
            </Box>
          ))}
        </Grid>
      )}
    </Box>
  );
}
