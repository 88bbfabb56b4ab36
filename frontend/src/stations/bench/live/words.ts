/** Words of the live bench, one place for all its faces. */
export const PHASES: Record<string, string> = {
  prepare: "Getting ready",
  purge: "Purging",
  cool: "Cooling down",
  countdown: "Hands off",
  soak: "Soaking",
  window: "Averaging",
};

export const EVENTS = [
  { tag: "panel_opened", words: "panel opened" },
  { tag: "touched", words: "case touched" },
  { tag: "fog", words: "fog let go" },
  { tag: "window_open", words: "window or door opened" },
  { tag: "someone_near", words: "someone stood near" },
  { tag: "gate_waived", words: "begun without waiting" },
];
export const SEEN = [
  { tag: "stagnant", words: "air stands still here" },
  { tag: "ejected_unused", words: "leaves unused here" },
  { tag: "sucked_in", words: "drawn in through a gap" },
  { tag: "pushed_back", words: "pushed back out" },
  { tag: "heat_felt", words: "heat felt here" },
];
export const HEARD = [
  { tag: "gurgle", words: "gurgle" },
  { tag: "trickle", words: "trickle" },
  { tag: "whine", words: "whine" },
  { tag: "tone", words: "steady tone" },
  { tag: "beat", words: "beat" },
  { tag: "rattle", words: "rattle" },
];
const ALL = new Map([...EVENTS, ...SEEN, ...HEARD].map((x) => [x.tag, x.words]));
ALL.set("limit", "limit crossed");
ALL.set("tach_lost", "speed lost");
export const tagWords = (tag: string) => ALL.get(tag) ?? tag.replaceAll("_", " ");

export const ENDINGS: Record<string, string> = {
  settled: "ended by itself, settled",
  time: "ended at its planned time",
  person: "ended by hand",
  limit: "stopped by a limit",
};

/** 1164 as 19:24. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds));
  const hours = Math.floor(whole / 3600);
  const pair = (n: number) => String(n).padStart(2, "0");
  return `${hours ? `${hours}:` : ""}${pair(Math.floor(whole / 60) % 60)}:${pair(whole % 60)}`;
}
