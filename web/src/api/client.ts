import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Shot = Schemas["Shot"];
export type Plan = Schemas["Plan"];
export type Edit = Schemas["Edit"];
/** An edit of the sentence, or of what stands at moments of the shot. */
export type DeskEdit =
  | Edit
  | Schemas["LightKeyEdit"]
  | Schemas["MoveEdit"]
  | Schemas["CarryEdit"]
  | Schemas["WireEdit"]
  | Schemas["WalkEdit"]
  | Schemas["OutputEdit"]
  | Schemas["FixEdit"];

export const api = createClient<paths>({ baseUrl: "/" });

/** One field that cannot be used, and what is allowed there. */
export interface Fault {
  path: string;
  allowed: string;
}

/** A refusal as the server words it: what is wrong, and at which fields. */
export class Refused extends Error {
  constructor(
    readonly path: string,
    message: string,
    readonly status: number,
    readonly current?: unknown,
    readonly faults: Fault[] = [],
  ) {
    super(message);
  }
}

/** The data of an answer, or a Refused. */
export async function told<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer.catch((cause) => {
    if (cause instanceof DOMException && cause.name === "AbortError") throw cause;
    throw new Refused("", "Revani does not answer. Is it still running?", 0);
  });
  if (data !== undefined && response.ok) return data;
  const problem = (error ?? {}) as { detail?: unknown; path?: string; current?: unknown; faults?: Fault[] };
  const detail =
    typeof problem.detail === "string" ? problem.detail : `The server answered ${response.status}.`;
  throw new Refused(problem.path ?? "", detail, response.status, problem.current, problem.faults);
}
