import type { Load, Schemas } from "../api/client";

/** Under what a forecast is asked for: the load, and the room as usual or at its worst. */
export type Conditions = {
  load: Load;
  cpuPct: number;
  cardPct: number;
  room: "usual" | "worst";
  worstC: number;
};

export const USUAL: Conditions = { load: "both", cpuPct: 60, cardPct: 100, room: "usual", worstC: 32 };

export const LOADS: readonly Load[] = ["idle", "cpu", "card", "both", "own"];

export const LOAD_WORDS: Record<Load, string> = {
  idle: "idle",
  cpu: "processor loaded",
  card: "card loaded",
  both: "both loaded",
  own: "own load",
};

/** The question to the engine for these conditions. */
export const questionOf = (c: Conditions): Partial<Schemas["Question"]> => ({
  load: c.load,
  ...(c.load === "own" ? { cpu_load_pct: c.cpuPct, card_load_pct: c.cardPct } : {}),
  ...(c.room === "worst" ? { room_c: c.worstC } : {}),
});
