import type { MEASURES } from "../words/generated";

export type System = keyof typeof MEASURES;
export type Kind = keyof typeof MEASURES.metric;
