import { CHANNEL_PATTERNS, CHANNEL_UNITS, CHANNEL_WORDS, FIGURES } from "./generated";

export * from "./generated";

type Table = Readonly<Record<string, string>>;

/** The words of a key; one that nobody foresaw is told as it is, without its underscores. */
export const said = (table: Table, key: string | null | undefined) => (key ? (table[key] ?? key.replaceAll("_", " ")) : "");

/** The words of a choice. */
export const saidOfChoice = (choices: readonly { value: string; words: string }[], value: string) =>
  choices.find((c) => c.value === value)?.words ?? value.replaceAll("_", " ");

/** A channel of a run log in words; the same on every screen. */
export function channelWords(name: string): string {
  const known = (CHANNEL_WORDS as Table)[name];
  if (known) return known;
  const [pattern, words] = CHANNEL_PATTERNS.find(([p]) => new RegExp(p).test(name)) ?? ["", ""];
  return (pattern ? name.replace(new RegExp(pattern), words) : name).replaceAll("_", " ");
}

type ChannelKind = (typeof CHANNEL_UNITS)[keyof typeof CHANNEL_UNITS] | "plain";

export const unitKind = (channel: string): ChannelKind =>
  CHANNEL_UNITS[channel.slice(channel.lastIndexOf("_") + 1) as keyof typeof CHANNEL_UNITS] ?? "plain";

/** The kind of a figure as it is read off: a temperature is not over the room. */
export const readingKind = (channel: string): ChannelKind | "temperature" =>
  channel.endsWith("_c") ? "temperature" : unitKind(channel);

export type Figure = { low?: number; high?: number; fallback?: number | string | boolean };

/** Between what a figure of the document is asked for, and what holds where nothing is said; by its place. */
export function figureAt(path: readonly (string | number)[]): Figure {
  const table = FIGURES as Readonly<Record<string, Figure>>;
  const exact = table[path.join(".")];
  if (exact) return exact;
  const parts = path.map((p) => (typeof p === "number" ? "*" : p));
  return table[parts.join(".")] ?? table[parts.map((p, i) => (NAMED.has(String(parts[i - 1])) ? "*" : p)).join(".")] ?? {};
}

const NAMED = new Set(["panels", "fans"]); // held by a name, not by a number

/** Least and most of a figure, for a field that is not the document's own. */
export function within(place: keyof typeof FIGURES): { low?: number; high?: number } {
  const { low, high } = FIGURES[place] as Figure;
  return { low, high };
}

/** What holds where nothing is said. */
export function usual(place: keyof typeof FIGURES): number {
  const found = (FIGURES[place] as Figure).fallback;
  if (typeof found !== "number") throw new Error(`${place} has no usual figure`);
  return found;
}

/** Cautions that are ticked, by the key a protocol names them with. */
export type Ticked = Readonly<Record<string, { name: string; words: string }>>;
