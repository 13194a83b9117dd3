import { Box, chakra, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import { MARK_OF_TONE, Said, StateMark } from "../app/parts";

/** How loud the sound of a film is, against what was wanted of it. */
export function Heard({ id }: { id: string }) {
  const sound = useQuery({
    queryKey: ["sound", id],
    queryFn: () => told(api.GET("/api/runs/{id}/sound", { params: { path: { id } } })),
    retry: false,
  });
  if (sound.error) return <Said>{sound.error.message}</Said>;
  if (!sound.data?.length) return null;
  return (
    <Box mt="3" data-testid="heard">
      <chakra.h2 fontWeight="700" mb="1">
        Its sound
      </chakra.h2>
      <Grid as="dl" templateColumns="auto auto 1fr" columnGap="3" rowGap="1" alignItems="baseline">
        {sound.data.map((row) => (
          <Box key={row.label} display="contents">
            <StateMark severity={MARK_OF_TONE[row.tone ?? "good"]} />
            <chakra.dt color="inkSoft">{row.label}</chakra.dt>
            <chakra.dd className="figure">{row.text}</chakra.dd>
          </Box>
        ))}
      </Grid>
    </Box>
  );
}
