import { Box, chakra } from "@chakra-ui/react";

/** What a camera filmed at live speed. */
export function Clip({ run, number }: { run: string; number: number }) {
  return (
    <chakra.video
      className="picture"
      src={`/api/runs/${run}/frames/${number}/picture`}
      controls
      muted
      width="100%"
      aspectRatio="16 / 9"
      borderRadius="6px"
      bg="lane"
      data-testid="clip"
    />
  );
}

/** Where the rig turned round, so that cuts can avoid it. */
export function Turns({ turns }: { turns: string[] }) {
  if (!turns.length) return null;
  return (
    <Box data-testid="turns">
      <chakra.h2 fontWeight="700" mb="1">
        Turning points: cut elsewhere
      </chakra.h2>
      <chakra.ul listStyleType="none" className="figure" fontSize="15px" columns={{ base: 1, md: 2 }}>
        {turns.map((turn) => (
          <li key={turn}>{turn}</li>
        ))}
      </chakra.ul>
    </Box>
  );
}
