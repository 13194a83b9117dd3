import { Box, chakra, Flex } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { NavLink } from "react-router";
import { MeasuresChoice } from "./Measures";
import { corner } from "./parts";
import { applyTheme, storedTheme, THEMES, type ThemeName } from "./theme";
import { useTitle } from "./title";

const PLACES = [
  ["/", "Tonight"],
  ["/begin", "Begin"],
  ["/shots", "Shots"],
  ["/sequences", "Sequences"],
  ["/kit", "Kit"],
  ["/places", "Places"],
  ["/rigs", "Rigs"],
  ["/logbook", "Logbook"],
  ["/handbook", "Handbook"],
] as const;

const Way = chakra(NavLink);

/** Chooses the ground: Day, Night or Field red. */
export function ThemeChoice() {
  const [theme, setTheme] = useState<ThemeName>(storedTheme);
  return (
    <chakra.select
      {...corner}
      aria-label="Theme"
      value={theme}
      onChange={(event) => {
        const chosen = event.target.value as ThemeName;
        applyTheme(chosen);
        setTheme(chosen);
      }}
    >
      {THEMES.map(({ value, name }) => (
        <option key={value} value={value}>
          {name}
        </option>
      ))}
    </chakra.select>
  );
}

/** The pages beside the desk: a heading, the ways to the others, the page. */
export function Shell(props: { title: ReactNode; tab: string; sub?: ReactNode; children: ReactNode }) {
  const { title, tab, sub, children } = props;
  useTitle(tab);
  return (
    <Box px={{ base: "4", md: "6" }} py="4" maxW="1680px" mx="auto">
      <Flex as="header" wrap="wrap" align="baseline" gap="5" mb="5">
        <chakra.h1 fontSize={{ base: "22px", md: "27px" }} lineHeight="1.2">
          {title}
        </chakra.h1>
        {sub && <Box color="inkSoft">{sub}</Box>}
        <Flex as="nav" aria-label="Places" ml={{ md: "auto" }} gap="5" align="center" wrap="wrap">
          {PLACES.map(([to, name]) => (
            <Way
              key={to}
              to={to}
              end
              color="inkSoft"
              py="1"
              _hover={{ color: "ink" }}
              css={{
                "&.active": {
                  color: "var(--chakra-colors-ink)",
                  fontWeight: 700,
                  boxShadow: "0 2px 0 var(--chakra-colors-accent)",
                },
              }}
            >
              {name}
            </Way>
          ))}
          <MeasuresChoice />
          <ThemeChoice />
        </Flex>
      </Flex>
      <main>{children}</main>
    </Box>
  );
}
