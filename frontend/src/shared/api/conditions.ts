import { FORECAST_LOADS, USUAL as USUAL_FIGURES } from "@/shared/words/words";
import type { Load, Schemas } from "./client";

/** Under what a forecast is asked for: the load, and the room as usual or at its worst. */
export type Conditions = {
  load: Load;
  cpuPct: number;
  cardPct: number;
  room: "usual" | "worst";
  worstC: number;
  /** The job whose runs have taught, and how many runs and readings there are, so that one more asks anew; null: from sheets alone. */
  lessons: { job: number; runs: number } | null;
};

export const USUAL: Conditions = {
  load: "both",
  cpuPct: USUAL_FIGURES.own_load_pct.cpu,
  cardPct: USUAL_FIGURES.own_load_pct.card,
  room: "usual",
  worstC: USUAL_FIGURES.worst_room_c,
  lessons: null,
};

export const LOADS = FORECAST_LOADS.map((l) => l.value);

/** The question to the engine for these conditions. */
export const questionOf = (c: Conditions): Partial<Schemas["Question"]> => ({
  load: c.load,
  ...(c.load === "own" ? { cpu_load_pct: c.cpuPct, card_load_pct: c.cardPct } : {}),
  ...(c.room === "worst" ? { room_c: c.worstC } : {}),
});

export const taughtBy = (conditions: Conditions) => conditions.lessons?.job ?? null;
