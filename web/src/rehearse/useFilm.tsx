import { Box, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, type Schemas, type Shot, told } from "../api/client";
import { Action, Panel, Progress } from "../app/parts";

export type Mishap = Schemas["MishapRow"]["mishap"];
const NONE: Mishap[] = [];
const ENDED = ["done", "failed", "cancelled"];

/** The rehearsed film of a shot: asked for, followed until it is made. `key` tells one state of the shot from another. */
export function useFilm(
  shot: Shot | undefined,
  key: readonly unknown[],
  width: number,
  mishaps: Mishap[] = NONE,
  output: number | null = null,
) {
  return useOrder(
    ["rehearsal", ...key, width, mishaps, output],
    () => told(api.POST("/api/rehearsals", { body: { shot: shot as Shot, width, mishaps, output } })),
    Boolean(shot),
  );
}

/** The film of ways of a shot beside each other, once it is wanted. */
export function useFilmBeside(shot: Shot, names: string[], lock: "film" | "clock", wanted: boolean) {
  return useOrder(
    ["beside each other", JSON.stringify(shot), names, lock],
    () => told(api.POST("/api/rehearsals/beside", { body: { shot, names, lock } })),
    wanted,
  );
}

function useOrder(key: unknown[], order: () => Promise<Schemas["RehearsalView"]>, wanted: boolean) {
  const film = useQuery({
    queryKey: key,
    queryFn: order,
    enabled: wanted,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const id = film.data?.id ?? "";
  const now = useQuery({
    queryKey: ["rehearsal", id],
    queryFn: () => told(api.GET("/api/rehearsals/{id}", { params: { path: { id } } })),
    enabled: film.data !== undefined,
    refetchInterval: (query) => (ENDED.includes(query.state.data?.state ?? "") ? false : 400),
  });
  const cancel = useMutation({
    mutationFn: () => told(api.DELETE("/api/rehearsals/{id}", { params: { path: { id } } })),
  });
  return {
    view: now.data ?? film.data,
    /** What is in the film, in words. */
    told: film.data?.told,
    error: film.error,
    cancelling: cancel.isPending,
    cancel: () => cancel.mutate(),
    again: () => void film.refetch().then(() => now.refetch()),
  };
}

export type Film = ReturnType<typeof useFilm>;

/** How far a film is, while it is made or where it was not. */
export function Making({ film }: { film: Film }) {
  const { view } = film;
  if (!view || view.state === "done") return null;
  const ended = ENDED.includes(view.state);
  return (
    <Panel mb="4" data-testid="making">
      <Flex gap="4" align="center" wrap="wrap">
        <Box className="figure" role="status">
          {ended
            ? view.reason || view.state
            : `${view.done.toLocaleString("en")} of ${view.total.toLocaleString("en")} pictures`}
          {view.left_s != null && `, about ${Math.ceil(view.left_s)} s left`}
        </Box>
        <Progress done={view.done} total={view.total} />
        {ended ? (
          <Action onClick={film.again}>Make it again</Action>
        ) : (
          <Action onClick={film.cancel} disabled={film.cancelling}>
            Cancel
          </Action>
        )}
      </Flex>
    </Panel>
  );
}
