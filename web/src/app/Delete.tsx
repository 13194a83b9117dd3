import { useState } from "react";
import { Action } from "./parts";

/** Deletes what has a name, once one has said so twice. */
export function Delete({ name, onDelete }: { name: string; onDelete: () => void }) {
  const [sure, setSure] = useState(false);
  return (
    <Action
      minH={{ base: "11", md: "8" }}
      px="3"
      aria-label={`${sure ? "Yes, delete" : "Delete"} ${name}`}
      onBlur={() => setSure(false)}
      onClick={() => (sure ? onDelete() : setSure(true))}
    >
      {sure ? "Yes, delete it" : "Delete"}
    </Action>
  );
}
