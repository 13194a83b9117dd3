import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, type Shot, told } from "../../api/client";
import { Action, Said, StateMark } from "../../app/parts";
import { Beside } from "../beside";
import { Sheet } from "./Sheet";

/** Make it work: up to three whole plans in which nothing fails, each of which keeps one thing. */
export function Resolve(props: {
  shot: Shot;
  /** The others that it is cut with. */
  neighbours: Schemas["Neighbour"][];
  open: boolean;
  onClose: () => void;
  onTake: (shot: Shot) => void;
}) {
  const { shot, neighbours, open, onClose, onTake } = props;
  const answer = useQuery({
    queryKey: ["resolve", shot, neighbours],
    queryFn: ({ signal }) => told(api.POST("/api/begin/resolve", { body: { shot, neighbours }, signal })),
    enabled: open,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const found = answer.data;
  return (
    <Sheet title="Make it work" open={open} onClose={onClose} width="1040px" testId="resolve">
      {answer.error && <Said>{answer.error.message}</Said>}
      {!found && !answer.error && <chakra.p color="inkSoft">Plans are tried …</chakra.p>}
      {found && (
        <>
          <chakra.p color="inkSoft" fontSize="14px" mb="3">
            {found.fails} will fail · {found.minds} to mind; {found.tried} plans tried
          </chakra.p>
          <Grid
            templateColumns={{ base: "1fr", md: `repeat(${Math.max(found.plans.length, 1)}, 1fr)` }}
            gap="3"
          >
            {found.plans.map((plan) => {
              const works = plan.fails.length === 0;
              return (
                <Box
                  key={plan.keeps}
                  data-keeps={plan.keeps}
                  bg="lane"
                  borderRadius="8px"
                  p="4"
                  border="2px solid"
                  borderColor={works ? "hold" : "line"}
                >
                  <chakra.h3 fontSize="18px" fontWeight="700">
                    Keep {plan.keeps}
                  </chakra.h3>
                  <chakra.p
                    fontSize="14px"
                    color="inkSoft"
                    pb="2"
                    borderBottom="1px solid"
                    borderColor="line"
                  >
                    {plan.kept}
                  </chakra.p>
                  {plan.changes.map((change) => (
                    <chakra.p
                      key={change}
                      fontSize="14px"
                      py="1.5"
                      borderBottom="1px solid"
                      borderColor="line"
                    >
                      {change}
                    </chakra.p>
                  ))}
                  <chakra.p fontWeight="700" mt="2">
                    {plan.price}
                  </chakra.p>
                  {plan.fails.map((text) => (
                    <Flex key={text} gap="2" align="baseline" fontSize="14px" mt="1">
                      <StateMark severity="fix" />
                      <span>{text}</span>
                    </Flex>
                  ))}
                  <chakra.p fontSize="14px" color="inkSoft" mt="1">
                    {works ? "nothing fails" : "this still fails"}
                    {plan.minds.length > 0 && `; ${plan.minds.length} to mind: ${plan.minds.join(" ")}`}
                  </chakra.p>
                  {plan.changes.length > 0 && (
                    <Action
                      mt="3"
                      strong={works}
                      aria-label={`Take this: keep ${plan.keeps}`}
                      onClick={() => {
                        onTake(plan.shot);
                        onClose();
                      }}
                    >
                      Take this
                    </Action>
                  )}
                  {plan.changes.length > 0 && (
                    <Beside
                      ml="2"
                      said={`keep ${plan.keeps}`}
                      what={{ other: plan.shot, name: `Keep ${plan.keeps}` }}
                    />
                  )}
                </Box>
              );
            })}
          </Grid>
          {found.gives_way && (
            <chakra.p mt="4" data-testid="gives-way">
              {found.gives_way}
            </chakra.p>
          )}
        </>
      )}
    </Sheet>
  );
}
