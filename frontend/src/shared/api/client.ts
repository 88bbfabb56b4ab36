import createClient from "openapi-fetch";
import type { components, paths } from "./generated";

export type Schemas = components["schemas"];
export type JobDoc = Schemas["JobDoc"];
export type LayoutDoc = Schemas["LayoutDoc"];
export type MountDoc = Schemas["MountDoc"];
export type PanelDoc = Schemas["PanelDoc"];
export type FanPlace = Schemas["FanPlaceDoc"];
export type FanDoc = Schemas["FanDoc"];
export type LayoutForecast = Schemas["LayoutForecast"];
export type Finding = Schemas["Found"];
export type Fix = Schemas["OfferedFix"];
export type LinkForecast = Schemas["LinkForecast"];
export type Run = Schemas["RunOut"];
export type Pair = Schemas["Pair"];
export type LayoutFigure = Schemas["FigureOut"];
export type Load = "idle" | "cpu" | "card" | "both" | "own";
export type Face = MountDoc["face"];

export type Fault = { path: string; what: string; do: string };

/** An answer of the server that says what was wrong, where, and what to do. */
export class ApiError extends Error {
  constructor(
    readonly code: string,
    readonly faults: Fault[],
    readonly status: number,
  ) {
    super(faults.map((f) => `${f.path ? `${f.path}: ` : ""}${f.what}. ${f.do}`).join(" ") || code);
  }
}

export const client = createClient<paths>({ baseUrl: `${location.origin}/` });

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or an ApiError that can be shown as it is. */
export async function answered<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError(
      "offline",
      [{ path: "", what: "The server does not answer", do: "Your work is kept here and saved when it is back." }],
      0,
    );
  }
  if (answer.data !== undefined) return answer.data;
  const problem = answer.error as { code?: string; faults?: Fault[] } | undefined;
  throw new ApiError(problem?.code ?? "unexpected", problem?.faults ?? [], answer.response.status);
}

/** Waits for an answer that has no content. */
export async function done(call: Promise<{ error?: unknown; response: Response }>): Promise<void> {
  await answered(call.then((answer) => ({ ...answer, data: answer.response.ok || undefined })));
}
