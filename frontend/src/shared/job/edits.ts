import { current, isDraft } from "immer";
import { num } from "@/shared/words/lists";
import { usual } from "@/shared/words/words";
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

/** A copy's name: "mesh front, changed", and of that again "mesh front, changed 2", or the next that no layout has. */
function changedName(doc: JobDoc, name: string) {
  const taken = new Set((doc.layouts ?? []).map((x) => x.name));
  const stem = `${name.replace(/, changed( \d+)?$/, "")}, changed`;
  let found = stem;
  for (let n = 2; taken.has(found); n++) found = `${stem} ${n}`;
  return found;
}

export function duplicateLayout(doc: JobDoc, from: string, id: string) {
  const source = layoutOf(doc, from);
  if (!source) return;
  const copy = structuredClone(isDraft(source) ? current(source) : source);
  const at = (doc.layouts ?? []).findIndex((x) => x.id === from) + 1;
  doc.layouts?.splice(at, 0, { ...copy, id, name: changedName(doc, source.name || source.id), parent: source.id, accepted: [] });
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

/** What rules a fan's speed: its group's speed or curve, its own curve, or its own speed. */
const ruling = (layout: LayoutDoc, place: FanPlace) => layout.groups?.find((g) => g.id === place.group) ?? place;

/** Faster or slower by `step` %: of its group where it is in one; off the curve where one ruled it, from the speed it had. */
export function speedBy(doc: JobDoc, layoutId: string, mount: string, layer: string, step: number, presentPct: number) {
  const layout = layoutOf(doc, layoutId);
  for (const place of layout?.fans ?? []) {
    if (!layout || place.mount !== mount || layerOf(place) !== layer) continue;
    const own = ruling(layout, place);
    const from = own.curve ? presentPct : (own.speed_pct ?? usual("layouts.*.fans.*.speed_pct"));
    own.curve = own.curve ? null : own.curve;
    own.speed_pct = Math.min(100, Math.max(0, Math.round(from + step)));
  }
}

/** What setting these speeds would release: groups whose fans part, and curves that no longer rule. */
export function releasedBy(layout: LayoutDoc, speeds: Record<string, number>): string[] {
  const told: string[] = [];
  for (const group of layout.groups ?? []) {
    const fans = (layout.fans ?? []).filter((f) => f.group === group.id);
    const wanted = new Set(fans.map((f) => speeds[f.mount]));
    if (fans.length && wanted.size > 1) told.push(`group ${group.name || group.id} parts`);
    else if (fans.length && group.curve && !wanted.has(undefined)) told.push(`group ${group.name || group.id} leaves its curve`);
  }
  for (const fan of layout.fans ?? [])
    if (!fan.group && fan.curve && speeds[fan.mount] !== undefined) told.push(`${fan.mount.toUpperCase()} leaves its curve`);
  return told;
}

/** Sets speeds by mount: a group whose fans all get the same is set as a group; one whose fans part lets them go. */
export function setSpeeds(doc: JobDoc, layoutId: string, speeds: Record<string, number>) {
  const layout = layoutOf(doc, layoutId);
  for (const group of layout?.groups ?? []) {
    const fans = (layout?.fans ?? []).filter((f) => f.group === group.id);
    const wanted = [...new Set(fans.map((f) => speeds[f.mount]))];
    const [speed] = wanted;
    if (wanted.length === 1 && speed !== undefined) Object.assign(group, { speed_pct: speed, curve: null });
    else if (wanted.length > 1) for (const fan of fans) fan.group = null;
  }
  for (const fan of layout?.fans ?? []) {
    const speed = speeds[fan.mount];
    if (speed === undefined || fan.group) continue;
    fan.speed_pct = speed;
    fan.curve = null;
  }
}

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

/** Mounts go with everything that stood on them in any layout, and every list that names them. */
export function dropMounts(d: JobDoc, ids: string[]) {
  const gone = (id: string | null | undefined) => ids.includes(id ?? "");
  d.case.mounts = (d.case.mounts ?? []).filter((m) => !gone(m.id));
  for (const layout of d.layouts ?? []) {
    layout.fans = (layout.fans ?? []).filter((f) => !gone(f.mount));
    if (layout.radiator?.mounts.some(gone)) layout.radiator = null;
    for (const loop of layout.loops ?? []) loop.radiators = (loop.radiators ?? []).filter((r) => !r.mounts.some(gone));
    if (layout.wiring) layout.wiring = layout.wiring.filter((p) => !gone(p.of));
    if (layout.as_found) layout.as_found = layout.as_found.filter((s) => !gone(s.mount));
    if (layout.obstructions) layout.obstructions = layout.obstructions.filter((o) => !gone(o.mount));
  }
  for (const rail of d.case.rails ?? []) rail.mounts = (rail.mounts ?? []).filter((m) => !gone(m));
  for (const { when, rules_out } of d.case.exclusions ?? []) {
    when.radiator_on = when.radiator_on?.filter((m) => !gone(m));
    when.fan_on = when.fan_on?.filter((m) => !gone(m));
    rules_out.radiators_on = rules_out.radiators_on?.filter((m) => !gone(m));
    rules_out.fans_on = rules_out.fans_on?.filter((m) => !gone(m));
  }
}

type CaseDoc = JobDoc["case"];

/** How far an upright face stands inward at a height. */
export function setBackAt(case_: CaseDoc, face: "front" | "rear", z: number): number {
  const own = case_.set_back?.find((s) => s.face === face);
  if (!own) return 0;
  const share = Math.min(Math.max(z / case_.inner_mm.height, 0), 1);
  return num(own.bottom_mm) + (num(own.top_mm) - num(own.bottom_mm)) * share;
}

/** Walls that moved take along what is in them; what stands at the rear wall goes with it. */
export function followWalls(d: JobDoc, before: CaseDoc) {
  const now = d.case;
  const { depth, height, width } = now.inner_mm;
  const was = before.inner_mm;
  const roof = num(now.shroud?.height_mm);
  const same =
    depth === was.depth &&
    height === was.height &&
    width === was.width &&
    roof === num(before.shroud?.height_mm) &&
    JSON.stringify(now.set_back ?? []) === JSON.stringify(before.set_back ?? []);
  if (same) return;
  for (const place of [...(now.mounts ?? []), ...(now.vents ?? [])]) {
    const c = place.centre_mm;
    if (width !== was.width) c.y = Math.round(((c.y * width) / was.width) * 10) / 10;
    if (place.face === "front") c.x = setBackAt(now, "front", c.z);
    if (place.face === "rear") c.x = depth - setBackAt(now, "rear", c.z);
    if (place.face === "top") c.z = height;
    if (place.face === "bottom") c.z = "on_shroud" in place && place.on_shroud ? roof : 0;
    if (place.face === "window") c.y = width;
  }
  const rearward = depth - was.depth;
  if (now.cpu_centre_mm) now.cpu_centre_mm.x += rearward;
  const supply = now.supply;
  if (supply?.centre_mm && supply.centre_mm.x > was.depth / 2) supply.centre_mm.x += rearward;
  if (supply?.centre_mm && width !== was.width) supply.centre_mm.y = (supply.centre_mm.y * width) / was.width;
}
