import { Box, Flex } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { api, type Schemas, told } from "../api/client";
import { Action, Leads, Said } from "../app/parts";

/** All gear and places as one file, out and in; what is known already stays as it is. */
export function KitFile({ onRead }: { onRead: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const read = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      let body: Schemas["KitFile"];
      try {
        body = JSON.parse(text);
      } catch {
        throw new Error(`${file.name} is no JSON.`);
      }
      return told(api.POST("/api/kit/file", { body }));
    },
    onSuccess: onRead,
  });
  return (
    <Flex gap="3" align="center" wrap="wrap" ml="auto">
      {read.error && <Said>{read.error.message}</Said>}
      {read.data && (
        <Box role="status" data-testid="brought-in">
          {read.data.added.length} brought in, {read.data.known.length} known already and left as they are.
        </Box>
      )}
      <Leads to="/api/kit/file" reloadDocument fontSize="14px">
        Kit and places as JSON
      </Leads>
      <Action onClick={() => input.current?.click()}>Bring in from JSON …</Action>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        hidden
        data-testid="kit-file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) read.mutate(file);
          event.target.value = "";
        }}
      />
    </Flex>
  );
}
