import type { DeskEdit, Schemas } from "./client";

type OutputEdit = Schemas["OutputEdit"];

/** An edit of what is made of a shot afterwards, with what it leaves open. */
export const outputEdit = (act: OutputEdit["do"], rest: Partial<OutputEdit> = {}): DeskEdit => ({
  track: "output",
  output: 0,
  values: {},
  name: "",
  ...rest,
  do: act,
});
