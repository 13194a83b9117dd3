import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

/** The three grounds on which everything stands; `value` is what the page's data-theme says. */
export const THEMES = [
  { value: "day", name: "Day" },
  { value: "night", name: "Night" },
  { value: "red", name: "Field red" },
] as const;

export type ThemeName = (typeof THEMES)[number]["value"];

const shade = (day: string, night: string, red: string) => ({
  value: { base: day, _night: night, _red: red },
});

const config = defineConfig({
  conditions: { night: "[data-theme=night] &", red: "[data-theme=red] &" },
  globalCss: {
    "html, body": { bg: "ground", color: "ink", fontFamily: "body", fontSize: "15px", lineHeight: 1.4 },
    // What is scrolled to must not hide behind the read-out at the foot of the desk.
    html: { scrollPaddingBottom: "72px" },
    "#filters": { position: "absolute" },
    "::selection": { bg: "accentSoft" },
    ":focus-visible": { outline: "2px solid", outlineColor: "accent", outlineOffset: "2px" },
    // Night and Field red have dark native controls; in Field red nothing shines but red, pictures included.
    "[data-theme=night], [data-theme=red]": { colorScheme: "dark" },
    "[data-theme=red] .sky, [data-theme=red] .picture, [data-theme=red] input[type=range], [data-theme=red] input[type=checkbox], [data-theme=red] input[type=radio], [data-theme=red] progress":
      { filter: "url(#red-alone)" },
    "input::file-selector-button": {
      bg: "transparent",
      color: "ink",
      border: "1.5px solid",
      borderColor: "button",
      borderRadius: "6px",
      px: "3",
      py: "1",
      cursor: "pointer",
    },
    "[data-theme=red]": { scrollbarColor: "#8A1F16 #000000" },
    // Dots in the zero would be noise in long columns of figures.
    ".figure": { fontFamily: "mono", fontVariantNumeric: "tabular-nums" },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', monospace" },
      },
    },
    semanticTokens: {
      colors: {
        ground: shade("#F3E6C8", "#12151E", "#000000"),
        lane: shade("#FAEED6", "#181C28", "#0A0101"),
        card: shade("#FFF8E7", "#1E2331", "#100202"),
        foot: shade("#E9D8B0", "#1A1E2A", "#160303"),
        line: shade("#DCC796", "#373F54", "#5A1410"),
        ink: shade("#22283A", "#F3E6C8", "#FF6A57"),
        inkSoft: shade("#625A45", "#B8AE98", "#E85B4B"),
        accent: shade("#B25A12", "#F0A24A", "#FF7A5C"),
        accentText: shade("#8E450B", "#F3AE60", "#FF7A5C"),
        accentSoft: shade("#F0D3A8", "#4A3820", "#4A0E0A"),
        hold: shade("#4E6A22", "#B9D482", "#E85B4B"),
        holdSoft: shade("#DDE0B8", "#2B3A22", "#2A0806"),
        fail: shade("#A02C36", "#FF8F8A", "#FF8A70"),
        failSoft: shade("#EFC9BD", "#4A2129", "#5A0F0A"),
        trace: shade("#22283A", "#E4DAC2", "#FF6A57"),
        button: shade("#22283A", "#F3E6C8", "#FF6A57"),
        buttonText: shade("#FFF8E7", "#12151E", "#000000"),
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);

const KEY = "revani-theme";

export function storedTheme(): ThemeName {
  const stored = localStorage.getItem(KEY);
  return THEMES.find((theme) => theme.value === stored)?.value ?? "day";
}

export function applyTheme(theme: ThemeName) {
  document.documentElement.dataset.theme = theme;
  // Chakra's own parts know light and dark alone.
  document.documentElement.className = theme === "day" ? "light" : "dark";
  localStorage.setItem(KEY, theme);
}
