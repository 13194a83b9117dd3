import { chakra, type HTMLChakraProps } from "@chakra-ui/react";
import { createContext, useContext } from "react";
import type { DeskEdit, Shot } from "../api/client";

/** What can be kept beside the shot: another shot, or this one after some edits. */
export interface Other {
  other?: Shot;
  edits?: DeskEdit[];
  name?: string;
}

/** Keeps another way beside the shot on the desk; absent elsewhere. */
export const KeepBeside = createContext<((what: Other) => void) | null>(null);

/** Keeps what it stands at as a way of its own, in place of taking it. */
export function Beside({ what, said, ...props }: HTMLChakraProps<"button"> & { what: Other; said: string }) {
  const keep = useContext(KeepBeside);
  if (!keep) return null;
  return (
    <chakra.button
      type="button"
      fontSize="13px"
      color="inkSoft"
      cursor="pointer"
      textDecoration="underline"
      textDecorationColor="line"
      textUnderlineOffset="3px"
      minH={{ base: "9", md: "7" }}
      px="1"
      _hover={{ color: "accentText" }}
      aria-label={`Beside: ${said}`}
      title="Keep it as another way beside this shot, to be compared"
      onClick={() => keep(what)}
      {...props}
    >
      beside
    </chakra.button>
  );
}
