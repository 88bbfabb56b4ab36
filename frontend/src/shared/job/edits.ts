import { current, isDraft } from "immer";
import type { FanPlace, JobDoc, LayoutDoc } from "../api/client";

/** Changes of a draft document, one per thing a person can do. They only rearrange what is there; the server judges. */

export const layoutOf = (doc: JobDoc, id: string): LayoutDoc | undefined => doc.layouts?.find((x) => x.id === id);

export const fansAt = (layout: LayoutDoc, mount: string): FanPlace[] => (layout.fans ?? []).filter((f) => f.mount === mount);

export const layerOf = (place: FanPlace) => place.layer ?? "outer";

const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ";

export function freeLayoutId(doc: JobDoc): string {
  const used = new Set(doc.layouts?.map((x) => x.id));
  return [...LETTERS].find((l) => !used.has(l)) ?? `L${used.size + 1}`;
}

/** An id that is not used yet, made from a stem: f, f2, f3 ... */
export function freeId(used: string[], stem: string, numbered = false): string {
  if (!numbered && !used.includes(stem)) return stem;
  let n = numbered ? 1 : 2;
  while (used.includes(`${stem}${n}`)) n += 1;
  return `${stem}${n}`;
}

export function addLayout(doc: JobDoc, id: string, like: Record<string, unknown> = {}) {
  doc.layouts = [...(doc.layouts ?? []), { name: "new layout", fans: [], ...like, id } as LayoutDoc];
}

export function duplicateLayout(doc: JobDoc, from: string, id: string) {
  const source = layoutOf(doc, from);
  if (!source) return;
  const copy = structuredClone(isDraft(source) ? current(source) : source);
  const at = (doc.layouts ?? []).findIndex((x) => x.id === from) + 1;
  doc.layouts?.splice(at, 0, { ...copy, id, name: `${source.name || source.id}, changed`, parent: source.id, accepted: [] });
}

export function removeLayout(doc: JobDoc, id: string) {
  doc.layouts = (doc.layouts ?? []).filter((x) => x.id !== id);
  for (const idea of doc.ideas ?? []) if (idea.layout === id) idea.layout = null;
  if (!doc.plan) return;
  doc.plan.runs = (doc.plan.runs ?? []).filter((r) => r.layout !== id);
  if (doc.plan.control === id) doc.plan.control = null;
  if (doc.plan.guess?.best === id) doc.plan.guess.best = null;
}

export const usualWay = (face: string): FanPlace["direction"] => (face === "rear" || face === "top" ? "exhaust" : "intake");

export function putFan(
  doc: JobDoc,
  layoutId: string,
  mount: string,
  fan: string,
  direction: FanPlace["direction"],
  inner: boolean,
) {
  const layout = layoutOf(doc, layoutId);
  if (!layout) return;
  const place: FanPlace = { mount, fan, direction, speed_pct: 80 };
  if (inner) place.layer = "inner";
  layout.fans = [...(layout.fans ?? []).filter((f) => !(f.mount === mount && (layerOf(f) === "inner") === inner)), place];
}

export function changeFan(doc: JobDoc, layoutId: string, mount: string, layer: string, change: (place: FanPlace) => void) {
  const layout = layoutOf(doc, layoutId);
  for (const place of layout?.fans ?? []) if (place.mount === mount && layerOf(place) === layer) change(place);
}

export const flip = (place: FanPlace) => {
  place.direction = place.direction === "intake" ? "exhaust" : "intake";
};

export const speedBy = (step: number) => (place: FanPlace) => {
  place.speed_pct = Math.min(100, Math.max(0, Math.round((place.speed_pct ?? 100) + step)));
};

export function takeOut(doc: JobDoc, layoutId: string, mount: string, layer: string) {
  const layout = layoutOf(doc, layoutId);
  if (layout) layout.fans = (layout.fans ?? []).filter((f) => !(f.mount === mount && layerOf(f) === layer));
}

/** Moves a fan to another mount; a fan that stands there changes places with it. */
export function moveFan(doc: JobDoc, layoutId: string, mount: string, layer: string, to: string) {
  const layout = layoutOf(doc, layoutId);
  const fan = layout?.fans?.find((f) => f.mount === mount && layerOf(f) === layer);
  if (!layout?.fans || !fan) return;
  const other = layout.fans.find((f) => f.mount === to && layerOf(f) === layer);
  fan.mount = to;
  if (other) other.mount = mount;
}

/** What a layout takes from its own settings, else from the job's base. */
export function setting<K extends "cpu" | "card" | "cooler" | "cooler_fan_pct" | "card_fan_pct" | "board" | "memory" | "supply">(
  doc: JobDoc,
  layout: LayoutDoc,
  name: K,
) {
  return layout[name] !== undefined ? layout[name] : doc.base?.[name];
}

/** What may follow a curve, as choices; without a value it runs at a fixed speed. */
export const curveChoices = (doc: JobDoc) => [
  { value: "", words: "a fixed speed" },
  ...(doc.curves ?? []).map((c) => ({ value: c.id, words: `curve ${c.id}` })),
];

/** Takes a curve off; whatever followed it runs at its fixed speed again. */
export function withoutCurve(doc: JobDoc, id: string) {
  doc.curves = (doc.curves ?? []).filter((c) => c.id !== id);
  for (const own of [doc.base ?? {}, ...(doc.layouts ?? [])]) {
    if (own.cooler_curve === id) own.cooler_curve = null;
    if (own.card_curve === id) own.card_curve = null;
  }
  for (const layout of doc.layouts ?? []) {
    for (const fan of layout.fans ?? []) if (fan.curve === id) fan.curve = null;
    for (const loop of layout.loops ?? []) if (loop.pump_curve === id) loop.pump_curve = null;
    for (const group of layout.groups ?? []) if (group.curve === id) group.curve = null;
  }
}
