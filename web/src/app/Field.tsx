import { Box, chakra, type HTMLChakraProps } from "@chakra-ui/react";
import { type ReactNode, useId, useState } from "react";
import { Said } from "./parts";

export const control = {
  bg: "lane",
  color: "ink",
  border: "1.5px solid",
  borderColor: "line",
  borderRadius: "5px",
  px: "2",
  minH: "9",
  width: "100%",
  _placeholder: { color: "inkSoft" },
} as const;

/** A labelled control with its unit, and what was wrong with it. */
export function Field(props: {
  label: string;
  unit?: string;
  hint?: string;
  fault?: string;
  children: (id: string) => ReactNode;
}) {
  const { label, unit, hint, fault, children } = props;
  const id = useId();
  return (
    <Box>
      <chakra.label
        htmlFor={id}
        display="flex"
        justifyContent="space-between"
        fontSize="14px"
        color="inkSoft"
        mb="0.5"
      >
        <span>{label}</span>
        <span>{unit}</span>
      </chakra.label>
      {children(id)}
      {hint && (
        <Box fontSize="13px" color="inkSoft">
          {hint}
        </Box>
      )}
      {fault && <Said>{fault}</Said>}
    </Box>
  );
}

/** A choice from a list of named things. */
export function Choice(
  props: Omit<HTMLChakraProps<"select">, "onChange"> & {
    options: readonly (readonly [value: string, name: string])[];
    onChoose: (value: string) => void;
  },
) {
  const { options, onChoose, ...rest } = props;
  return (
    <chakra.select {...control} cursor="pointer" {...rest} onChange={(event) => onChoose(event.target.value)}>
      {options.map(([value, name]) => (
        <option key={value} value={value}>
          {name}
        </option>
      ))}
    </chakra.select>
  );
}

/** A line of text that is told with every key. */
export function Typing(
  props: Omit<HTMLChakraProps<"input">, "onChange" | "value"> & {
    value: string;
    onType: (text: string) => void;
  },
) {
  const { value, onType, ...rest } = props;
  return (
    <chakra.input {...control} value={value} {...rest} onChange={(event) => onType(event.target.value)} />
  );
}

/** A line of text or a number that is taken when it is left; Escape lets it go. */
export function Entry(
  props: Omit<HTMLChakraProps<"input">, "onChange" | "value"> & {
    value: string | number;
    onTake: (text: string) => void;
  },
) {
  const { value, onTake, ...rest } = props;
  const [typed, setTyped] = useState<string | null>(null);
  const take = () => {
    if (typed !== null && typed !== String(value)) onTake(typed);
    setTyped(null);
  };
  return (
    <chakra.input
      {...control}
      className="figure"
      autoComplete="off"
      value={typed ?? value}
      data-typed={typed === null ? undefined : true}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === "Enter") take();
        if (event.key === "Escape") setTyped(null);
      }}
      {...rest}
    />
  );
}

/** Two columns on a desk, one on a phone. */
export function Fields({ children }: { children: ReactNode }) {
  return (
    <Box
      display="grid"
      gridTemplateColumns={{ base: "minmax(0, 1fr)", sm: "repeat(2, minmax(0, 1fr))" }}
      gap="3"
    >
      {children}
    </Box>
  );
}
