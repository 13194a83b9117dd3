import { Flex } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, told } from "../api/client";
import { Offer, Said } from "./parts";

/** Gear of a kind with its usual figures: one press makes it one's own. */
export function Starters({ offered }: { offered: Schemas["Choosable"][] }) {
  const queries = useQueryClient();
  const take = useMutation({
    mutationFn: (name: string) => told(api.POST("/api/begin/gear/{name}", { params: { path: { name } } })),
    onSuccess: () =>
      Promise.all(["begin", "gear"].map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
  return (
    <>
      <Flex gap="3" wrap="wrap">
        {offered.map((one) => (
          <Offer
            key={one.id}
            maxW="270px"
            label={one.name}
            told={one.told}
            disabled={take.isPending}
            onClick={() => take.mutate(one.id)}
          />
        ))}
      </Flex>
      {take.error && <Said>{take.error.message}</Said>}
    </>
  );
}
