import { chakra } from "@chakra-ui/react";

/** A drawn line for each thing that may move in a picture, on 48 × 32. */
const LINES: Record<string, string> = {
  "light that goes or comes": "M4 27C16 27 18 22 24 16S34 6 44 6",
  "day into night into day": "M4 6C14 6 14 26 24 26S34 6 44 6",
  "stars, as points": "M10 10h.1M22 6h.1M33 13h.1M15 22h.1M27 25h.1M40 22h.1",
  "stars, as trails": "M8 28A22 22 0 0 1 30 6M14 28A16 16 0 0 1 30 12M20 28A10 10 0 0 1 30 18",
  clouds: "M4 22h40M10 22a6 6 0 0 1 12 0M26 14h16M30 14a5 5 0 0 1 10 0",
  "water and tide": "M4 12q5-6 10 0t10 0 10 0 10 0M4 22q5-6 10 0t10 0 10 0 10 0",
  "people, traffic": "M4 12h8M17 12h5M27 12h9M40 12h4M6 22h5M15 22h10M30 22h5M39 22h5",
  "something made or grown": "M24 28V10M24 18l-9-7M24 15l9-8",
  "a pass along something": "M4 26h40M10 26v-9h8v9M30 6l9 7-9 7",
  "me, talking": "M14 28c0-12 20-12 20 0M24 6a5 5 0 1 1-.1 0",
  "a walk": "M4 26l8-4 7 3 8-10 8-2 9-9",
  "too fast to see": "M42 27L8 6M8 6l2 9M8 6l9-1",
};

/** The line that stands for a kind of subject. */
export const Mark = ({ moves }: { moves: string }) => (
  <chakra.svg viewBox="0 0 48 32" width="48px" height="32px" flexShrink={0} aria-hidden>
    <path
      d={LINES[moves]}
      fill="none"
      stroke="currentColor"
      strokeWidth={moves === "stars, as points" ? 4 : 1.8}
      strokeLinecap="round"
      strokeLinejoin="round"
    />
  </chakra.svg>
);
