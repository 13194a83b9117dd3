import { Box, chakra, Flex } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { Said } from "../app/parts";

const AGAIN_MS = 2_000;

/** What the camera saw just before a run that waited began: a strip to be pushed along, the newest at its end. */
export function Before({ id, titled }: { id: string; titled?: boolean }) {
  const seen = useQuery({
    queryKey: ["before", id],
    queryFn: () => told(api.GET("/api/runs/{id}/before", { params: { path: { id } } })),
    // They come home one after the other.
    refetchInterval: (query) => (query.state.dataUpdateCount < 5 ? AGAIN_MS : false),
  });
  if (seen.error) return <Said>{seen.error.message}</Said>;
  if (!seen.data?.length) return null;
  return (
    <Box>
      {titled && <chakra.p mb="2">What it saw before it began</chakra.p>}
      <Flex as="ul" listStyleType="none" gap="2" overflowX="auto" pb="2" tabIndex={0} data-testid="before">
        {seen.data.map((one) => (
          <chakra.li key={one.number} flex="none" width="168px">
            <a href={`/api/runs/${id}/before/${one.number}/picture`} target="_blank" rel="noreferrer">
              <img
                className="picture"
                src={`/api/runs/${id}/before/${one.number}/picture`}
                alt={`What it saw, ${one.told}`}
                loading="lazy"
                width={168}
              />
              <chakra.span className="figure" fontSize="14px" color="inkSoft">
                {one.told}
              </chakra.span>
            </a>
          </chakra.li>
        ))}
      </Flex>
    </Box>
  );
}
