import { chakra, Flex } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Offer, Said } from "../app/parts";

/** Gear of a kind with its usual figures, to be changed afterwards: quicker than an empty form. */
export function Usual({ onTaken }: { onTaken: () => void }) {
  const choices = useQuery({ queryKey: ["begin"], queryFn: () => told(api.GET("/api/begin")) });
  const take = useMutation({
    mutationFn: (name: string) => told(api.POST("/api/begin/gear/{name}", { params: { path: { name } } })),
    onSuccess: onTaken,
  });
  return (
    <chakra.details mb="4" data-testid="usual">
      <chakra.summary cursor="pointer" minH="9" color="inkSoft">
        Add gear with usual figures, and put your own in their place
      </chakra.summary>
      <Flex gap="3" wrap="wrap" mt="2">
        {[...(choices.data?.starters ?? []), ...(choices.data?.beside ?? [])].map((one) => (
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
    </chakra.details>
  );
}
