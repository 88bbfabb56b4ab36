import type { LayoutDoc, LayoutForecast } from "@/shared/api/client";

const ROOM = "room";
const ROWS: Record<string, string> = { up: "above the card", low: "below the card", basement: "basement" };
const COLUMNS: Record<string, string> = { front: "front", mid: "middle", rear: "rear", side: "along the window" };
const NAMED: Record<string, string> = {
  "leak:slot_covers": "past the slot covers",
  "card:bracket": "out of the card's bracket",
};

const TOGETHER: [string, string][] = [
  ["leak:seam", "at the seams"],
  ["vent:basement", "at the basement's vents"],
];

export const spaceWords = (id: string) => {
  const [row, column] = id.split("_");
  return `${ROWS[row ?? ""] ?? row}, ${COLUMNS[column ?? ""] ?? column}`;
};

/** A way between inside and room as a person would call it. */
export function openingWords(name: string): string {
  if (NAMED[name]) return NAMED[name];
  if (name.startsWith("leak:seam")) return `at a seam ${spaceWords(name.replace("leak:seam_", ""))}`;
  if (name.startsWith("vent:")) return `at a vent, ${name.split(":")[1]?.replace("_", " ") ?? ""}`;
  if (name.includes(":")) return name.replace(":", " ").replaceAll("_", " ");
  return `at ${name.toUpperCase()}`;
}

/** What moves air by itself between inside and room: air out of openings without a running fan (below 0: in), the largest first. */
export function passiveOutflows(forecast: LayoutForecast, layout: LayoutDoc): { words: string; out_m3h: number }[] {
  const driven = new Set((layout.fans ?? []).filter((f) => f.state !== "unplugged").map((f) => f.mount));
  const sums = new Map<string, number>();
  for (const link of forecast.links) {
    if ((link.tail === ROOM) === (link.head === ROOM) || (link.mount && driven.has(link.mount))) continue;
    if (link.kind === "card_out") continue; // the card's own fan drives it
    const many = TOGETHER.find(([start]) => link.id.startsWith(start));
    const words = link.mount ? openingWords(link.mount) : many ? many[1] : openingWords(link.id);
    sums.set(words, (sums.get(words) ?? 0) + (link.head === ROOM ? link.flow_m3h : -link.flow_m3h));
  }
  return [...sums].map(([words, out_m3h]) => ({ words, out_m3h })).sort((a, b) => Math.abs(b.out_m3h) - Math.abs(a.out_m3h));
}
