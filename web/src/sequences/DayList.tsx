import { Box, chakra, Flex } from "@chakra-ui/react";
import type { Schemas } from "../api/client";
import { Leads, Panel, StateMark } from "../app/parts";

/** What is done when and where, in its order, with the way between; and gear that is needed twice. */
export function DayList({ steps, twice }: { steps: Schemas["DayStep"][]; twice: Schemas["Twice"][] }) {
  const dates = [...new Set(steps.map((step) => step.date))];
  return (
    <Panel title="The list of the day" mt="4" data-testid="day-list">
      {steps.length === 0 && (
        <Box color="inkSoft">Put shots in above; what to set up when follows from them.</Box>
      )}
      {twice.map((one) => (
        <Flex key={one.sentence + one.figures} gap="2" align="baseline" py="1" data-testid="twice">
          <StateMark severity="stop" />
          <span>
            <b>{one.sentence}</b> <chakra.span color="inkSoft">{one.figures}</chakra.span>
          </span>
        </Flex>
      ))}
      {dates.map((date) => (
        <Box key={date} mt="2">
          <chakra.h3 fontWeight="700" py="1">
            {date}
          </chakra.h3>
          {steps
            .filter((step) => step.date === date)
            .map((step) => (
              <Box
                key={`${step.clock} ${step.doing} ${step.shot}`}
                display="grid"
                gridTemplateColumns={{ base: "1fr", md: "190px 80px minmax(0, 1fr)" }}
                columnGap="4"
                py="1.5"
                borderTop="1px solid"
                borderColor="line"
                alignItems="baseline"
                data-doing={step.doing}
              >
                <chakra.span className="figure">{step.clock}</chakra.span>
                <chakra.span fontWeight="700">{step.doing}</chakra.span>
                <span>
                  <Leads to={`/shots/${step.shot}`}>{step.name}</Leads>{" "}
                  <chakra.span color="inkSoft" fontSize="14px">
                    {[
                      step.place,
                      step.gear,
                      step.way && `the way there ${step.way}`,
                      step.meanwhile && `meanwhile ${step.meanwhile} runs`,
                    ]
                      .filter(Boolean)
                      .join(" · ")}
                  </chakra.span>
                  {step.late && (
                    <Flex gap="2" align="baseline" color="fail" fontWeight="600" fontSize="14px">
                      <StateMark severity="stop" />
                      {step.late}
                    </Flex>
                  )}
                </span>
              </Box>
            ))}
        </Box>
      ))}
    </Panel>
  );
}
