import { Box, chakra, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Leads } from "./parts";
import { ThemeChoice } from "./Shell";

/** A page of one shot beside its desk: what the page is, the shot, the ways out, and below them what it is for. */
export function ShotPage(props: {
  what: string;
  shot: string;
  told?: ReactNode;
  /** What is chosen in the corner. */
  controls?: ReactNode;
  to: readonly (readonly [address: string, name: string])[];
  width?: string;
  children: ReactNode;
}) {
  const { what, shot, told, controls, to, width = "1280px", children } = props;
  return (
    <Box as="main" px={{ base: "4", md: "6" }} py="4" maxW={width} mx="auto">
      <Flex as="header" wrap="wrap" align="baseline" gap={{ base: "2", md: "5" }} mb="4">
        <chakra.h1 fontSize={{ base: "22px", md: "27px" }} lineHeight="1.2">
          <b>{what}</b> {shot}
        </chakra.h1>
        {told && <Box color="inkSoft">{told}</Box>}
        <Flex ml={{ md: "auto" }} gap="4" align="center" wrap="wrap">
          {controls}
          {to.map(([address, name]) => (
            <Leads key={address} to={address} fontWeight="400" minH="11" display="flex" alignItems="center">
              {name}
            </Leads>
          ))}
          <ThemeChoice />
        </Flex>
      </Flex>
      {children}
    </Box>
  );
}
