import { chakra } from "@chakra-ui/react";
import { useState } from "react";

/** How a word looks that is changed in place, in a sentence. */
export const word = {
  bg: "transparent",
  color: "ink",
  fontWeight: "700",
  border: "none",
  borderBottom: "2px solid",
  borderColor: "line",
  cursor: "pointer",
  mx: "1",
  _placeholder: { color: "inkSoft", fontWeight: "400" },
  _focus: { bg: "card", outline: "2px solid", outlineColor: "accent", borderRadius: "4px" },
  css: {
    fieldSizing: "content",
    "& option": { background: "var(--chakra-colors-card)", color: "var(--chakra-colors-ink)" },
  },
} as const;

/** A word that is typed; it is taken when it is left. */
export function Typed(props: {
  label: string;
  value: string;
  hint: string;
  figure?: boolean;
  onTake: (text: string) => void;
}) {
  const { label, value, hint, figure, onTake } = props;
  const [typed, setTyped] = useState<string | null>(null);
  const take = () => {
    if (typed !== null && typed !== value) onTake(typed);
    setTyped(null);
  };
  const shown = typed ?? value;
  return (
    <chakra.input
      {...word}
      cursor="text"
      className={figure ? "figure" : undefined}
      aria-label={label}
      placeholder={hint}
      value={shown}
      width={`${Math.max(shown.length || hint.length, 3) + 1}ch`}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === "Enter") take();
        if (event.key === "Escape") setTyped(null);
      }}
    />
  );
}
