import { Box, chakra } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { api, type Schemas, told } from "../api/client";
import { Large, Said } from "../app/parts";

type RunView = Schemas["RunView"];

/** What a run waits for before its first frame; where a person may say so, they say it here. */
export function Waits({ run, who, onRun }: { run: RunView; who: string; onRun: (run: RunView) => void }) {
  const begin = useMutation({
    mutationFn: () =>
      told(api.POST("/api/runs/{id}/begin", { params: { path: { id: run.id } }, body: { by: who } })),
    onSuccess: onRun,
  });
  return (
    <Box>
      <chakra.p fontSize={{ base: "26px", md: "40px" }} lineHeight="1.25" data-testid="waits">
        {run.state === "armed" ? `From ${run.start_clock} it waits ` : "It waits "}
        {run.waits_until}.
      </chakra.p>
      {run.may_begin && (
        <Large
          type="button"
          mt="5"
          data-testid="begin"
          disabled={begin.isPending || begin.isSuccess}
          onClick={() => begin.mutate()}
        >
          {begin.isSuccess ? "It begins" : "Begin now"}
        </Large>
      )}
      {begin.error && <Said>{begin.error.message}</Said>}
    </Box>
  );
}
