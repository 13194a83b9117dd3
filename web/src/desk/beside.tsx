import type { HTMLChakraProps } from "@chakra-ui/react";
import { createContext, useContext, useState } from "react";
import type { DeskEdit, Shot } from "../api/client";
import { Leads, Quiet, Said } from "../app/parts";

/** What can be kept beside the shot: another shot, or this one after some edits. */
export interface Other {
  other?: Shot;
  edits?: DeskEdit[];
  name?: string;
}

/** Keeps another way beside the shot on the desk, and says why not where it is refused; absent elsewhere. */
export const KeepBeside = createContext<{ ways: string; keep: (what: Other) => Promise<string> } | null>(
  null,
);

/** Keeps what it stands at as a way of its own, in place of taking it; then it leads to all ways. */
export function Beside({ what, said, ...props }: HTMLChakraProps<"button"> & { what: Other; said: string }) {
  const desk = useContext(KeepBeside);
  const [refused, setRefused] = useState<string | null>(null);
  if (!desk) return null;
  if (refused === "")
    return (
      <Leads to={desk.ways} fontSize="13px" mx="1" data-testid="kept-beside">
        kept: see the ways
      </Leads>
    );
  return (
    <>
      <Quiet
        fontSize="13px"
        minH={{ base: "11", md: "7" }}
        px="1"
        aria-label={`Beside: ${said}`}
        title="Keep it as another way beside this shot, to be compared"
        onClick={() => void desk.keep(what).then(setRefused)}
        {...props}
      >
        beside
      </Quiet>
      {refused && <Said>{refused}</Said>}
    </>
  );
}
