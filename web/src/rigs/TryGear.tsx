import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "../api/client";
import { Field, Typing } from "../app/Field";
import { Action, Panel, Quiet, Said, StateMark, Tick } from "../app/parts";

const MARK = { true: "good", false: "stop", null: "unseen" } as const;

/** What answers at an address, tried without a run; and what is on this machine's sockets. */
export function TryGear({ rig, name }: { rig: string; name: string }) {
  const [typed, setTyped] = useState<Schemas["TryOrder"]>({
    rig,
    camera: "",
    mover: "",
    frame: false,
    move: false,
  });
  const attempt = useMutation({ mutationFn: () => told(api.POST("/api/rigs/try", { body: typed })) });
  const find = useMutation({ mutationFn: () => told(api.GET("/api/rigs/found")) });
  const error = attempt.error ?? find.error;
  return (
    <Panel title={name ? `Try gear of ${name}` : "Try gear"}>
      <chakra.form
        onSubmit={(event) => {
          event.preventDefault();
          attempt.mutate();
        }}
      >
        <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="3">
          {(["camera", "mover"] as const).map((what) => (
            <Field
              key={what}
              label={what === "camera" ? "Camera at" : "Mover at"}
              hint="Empty: the rig's own."
            >
              {(id) => (
                <Typing
                  id={id}
                  name={`try-${what}`}
                  placeholder={what === "camera" ? "usb:// or ptpip://…" : "gcode://… or serial:/dev/…"}
                  value={typed[what]}
                  onType={(text) => setTyped({ ...typed, [what]: text })}
                />
              )}
            </Field>
          ))}
        </Grid>
        <Flex gap="5" mt="2" wrap="wrap" align="center">
          <Tick
            of="try-frame"
            checked={typed.frame ?? false}
            onTick={(frame) => setTyped({ ...typed, frame })}
          >
            Take a test frame
          </Tick>
          <Tick of="try-move" checked={typed.move ?? false} onTick={(move) => setTyped({ ...typed, move })}>
            Move each axis a little and back
          </Tick>
          <Action type="submit" minH="11" strong disabled={attempt.isPending} data-testid="try-gear">
            {attempt.isPending ? "Asking …" : "Try it"}
          </Action>
          <Quiet minH="11" disabled={find.isPending} onClick={() => find.mutate()} data-testid="find-gear">
            Look what is plugged in
          </Quiet>
        </Flex>
      </chakra.form>
      <Box mt="3" data-testid="tried">
        {attempt.data?.map((one) => (
          <Flex key={one.what} gap="3" align="baseline" py="0.5">
            <StateMark severity={MARK[`${one.went ?? null}` as keyof typeof MARK]} />
            <chakra.span color="inkSoft" minW="110px">
              {one.what}
            </chakra.span>
            <chakra.span className="figure" overflowWrap="anywhere">
              {one.told}
            </chakra.span>
          </Flex>
        ))}
        {find.data?.length === 0 && <Box color="inkSoft">Nothing that is known is plugged in.</Box>}
        {find.data?.map((one) => (
          <Flex key={one.address} gap="3" align="baseline" py="0.5">
            <span>{one.name}</span>
            <Quiet className="figure" onClick={() => setTyped({ ...typed, [one.what]: one.address })}>
              {one.address}
            </Quiet>
          </Flex>
        ))}
        {error && <Said>{error.message}</Said>}
      </Box>
    </Panel>
  );
}
