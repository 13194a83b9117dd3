import type { DeskEdit, Schemas } from "./client";

type MoveEdit = Schemas["MoveEdit"];

/** An edit of the move, with what it leaves open. */
export const moveEdit = (action: MoveEdit["action"], rest: Partial<MoveEdit> = {}): DeskEdit => ({
  track: "move",
  positions: {},
  across: 0,
  down: 0,
  over: "",
  ...rest,
  action,
});
