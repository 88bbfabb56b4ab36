import type { LayoutForecast, LinkForecast } from "../api/client";
import { type Plan, type Pt, seenAs, spaceCentres } from "./geometry";

/** One stream as drawn: its link, its path in the way the air goes, its width and pace. */
export type Drawn = {
  id: string;
  path: string;
  length: number;
  flow: number;
  width: number;
  pace: number;
  tone: "in" | "out" | "cool" | "warm";
};

/** Millimetres of width per m³/h, and millimetres of drawing per second for each m/s of air. */
export const WIDTH_PER_M3H = 0.26;
export const PACE_PER_M_S = 42;
const LEAST_M3H = 1.5;
const WARM_K = 4;

export function drawnStreams(plan: Plan, forecast: LayoutForecast | undefined): Drawn[] {
  if (!forecast) return [];
  const centres = spaceCentres(plan, forecast);
  const found: Drawn[] = [];
  for (const link of seenLinks(forecast.links)) {
    if (Math.abs(link.flow_m3h) < LEAST_M3H) continue;
    const points = route(plan, centres, link);
    if (!points) continue;
    const ordered = link.flow_m3h >= 0 ? points : [...points].reverse();
    const { path, length } = smooth(ordered);
    const flow = Math.abs(link.flow_m3h);
    found.push({
      id: link.id,
      path,
      length,
      flow,
      width: flow * WIDTH_PER_M3H,
      pace: link.speed_m_s * PACE_PER_M_S,
      tone: toneOf(link),
    });
  }
  return found.sort((a, b) => b.flow - a.flow);
}

/** Links as seen from the window: what runs along the lane joins what runs beside the board, flow by flow. */
export function seenLinks(links: LinkForecast[]): LinkForecast[] {
  const found = new Map<string, LinkForecast>();
  for (const link of links) {
    const [tail, head] = [seenAs(link.tail), seenAs(link.head)];
    if (tail === head && link.tail !== link.head) continue;
    const key = link.id.replace(/_side/g, "_mid");
    const other = found.get(key);
    if (!other) {
      found.set(key, { ...link, id: key, tail, head });
      continue;
    }
    const flow = other.flow_m3h + link.flow_m3h;
    const whole = Math.abs(other.flow_m3h) + Math.abs(link.flow_m3h) || 1;
    const mean = (a: number, b: number) => (a * Math.abs(other.flow_m3h) + b * Math.abs(link.flow_m3h)) / whole;
    found.set(key, {
      ...other,
      flow_m3h: flow,
      speed_m_s: mean(other.speed_m_s, link.speed_m_s),
      rise_k: mean(other.rise_k, link.rise_k),
    });
  }
  return [...found.values()];
}

function toneOf(link: LinkForecast): Drawn["tone"] {
  const inward = link.flow_m3h >= 0;
  const outside = (node: string) => node === "room" || node.startsWith("plenum");
  if (outside(link.tail)) return inward ? "in" : "out";
  if (outside(link.head)) return inward ? "out" : "in";
  return link.rise_k > WARM_K ? "warm" : "cool";
}

/** Points from tail to head, or null for a path that has no place in this view. */
function route(plan: Plan, centres: Map<string, Pt>, link: LinkForecast): Pt[] | null {
  const head = centres.get(link.head);
  const tail = centres.get(link.tail);
  if (link.mount) return throughMount(plan, link, tail, head ?? (link.head === "window_gap" ? plan.cpu : undefined));
  if (link.kind === "card_in" || link.kind === "card_out") return pastCard(plan, link, tail, head);
  if (link.kind === "cooler") return throughCooler(plan, tail, head);
  if (tail && head) return aside(toward(tail, head), toward(head, tail));
  if (link.kind === "face" && link.id.startsWith("face:window")) return null;
  if (link.tail === "room" && head) return fromWall(plan, link, head);
  return null;
}

function throughMount(plan: Plan, link: LinkForecast, tail: Pt | undefined, target: Pt | undefined): Pt[] | null {
  const mount = plan.case.mounts?.find((m) => m.id === link.mount);
  if (!mount || !target || mount.face === "window") return null;
  const { wall, inward } = plan.gate(mount);
  const reach = 52 * plan.u;
  const start = tail ?? { x: wall.x - inward.x * reach, y: wall.y - inward.y * reach };
  const inside = { x: wall.x + inward.x * 46 * plan.u, y: wall.y + inward.y * 46 * plan.u };
  return [start, wall, inside, toward(target, inside)];
}

/** Streams stop a little short of the middle of a space, so that they do not knot there. */
const toward = (p: Pt, other: Pt): Pt => ({ x: p.x + (other.x - p.x) * 0.07, y: p.y + (other.y - p.y) * 0.07 });

/** A slight bend keeps streams between neighbouring spaces apart from each other. */
function aside(a: Pt, b: Pt): Pt[] {
  return [a, { x: (a.x + b.x) / 2 + (b.y - a.y) * 0.05, y: (a.y + b.y) / 2 + (a.x - b.x) * 0.05 }, b];
}

function pastCard(plan: Plan, link: LinkForecast, tail: Pt | undefined, head: Pt | undefined): Pt[] | null {
  const z = plan.cardHeight;
  const below = (p: Pt): Pt => ({ x: p.x, y: plan.height - z + 26 });
  const above = (p: Pt): Pt => ({ x: p.x - 14 * plan.u, y: plan.height - z - 24 });
  if (link.kind === "card_in" && tail) return [tail, { x: tail.x + 12 * plan.u, y: (tail.y + below(tail).y) / 2 }, below(tail)];
  if (link.head === "room")
    return [
      { x: 60, y: plan.height - z },
      { x: 0, y: plan.height - z },
      { x: -48 * plan.u, y: plan.height - z },
    ];
  if (!head) return null;
  const start = link.id.includes(":low") ? below(head) : above(head);
  return [start, { x: (start.x + head.x) / 2, y: (start.y + head.y) / 2 }, head];
}

function throughCooler(plan: Plan, tail: Pt | undefined, head: Pt | undefined): Pt[] | null {
  const cpu = plan.cpu;
  const from = tail ?? { x: cpu.x + 50, y: cpu.y - 50 };
  const to = head ?? { x: cpu.x - 50, y: cpu.y + 50 };
  const up = from.x === to.x && from.y === to.y;
  return up
    ? [{ x: cpu.x, y: cpu.y + 80 }, cpu, { x: cpu.x, y: cpu.y - 90 }]
    : [from, { x: (from.x + cpu.x) / 2, y: cpu.y }, cpu, to];
}

/** Leaks, vents and open faces: straight in from the nearest wall. */
function fromWall(plan: Plan, link: LinkForecast, head: Pt): Pt[] {
  const reach = 34 * plan.u;
  const [row, column] = link.head.split("_");
  if (column === "front") return [{ x: plan.depth + reach, y: head.y + 18 }, { x: plan.depth, y: head.y + 14 }, head];
  if (column === "rear") return [{ x: -reach, y: head.y + 18 }, { x: 0, y: head.y + 14 }, head];
  const y = row === "up" ? 0 : plan.height;
  const out = row === "up" ? -reach : reach;
  return [{ x: head.x + 10, y: y + out }, { x: head.x + 8, y }, head];
}

/** A smooth path through the points (Catmull-Rom as cubic pieces), and its length. */
function smooth(p: Pt[]): { path: string; length: number } {
  const n = (v: number) => v.toFixed(1);
  const first = p[0] as Pt;
  let path = `M${n(first.x)} ${n(first.y)}`;
  let length = 0;
  for (let i = 0; i < p.length - 1; i += 1) {
    const [a, b] = [p[i] as Pt, p[i + 1] as Pt];
    const before = p[i - 1] ?? a;
    const after = p[i + 2] ?? b;
    const c1 = { x: a.x + (b.x - before.x) / 6, y: a.y + (b.y - before.y) / 6 };
    const c2 = { x: b.x - (after.x - a.x) / 6, y: b.y - (after.y - a.y) / 6 };
    path += `C${n(c1.x)} ${n(c1.y)} ${n(c2.x)} ${n(c2.y)} ${n(b.x)} ${n(b.y)}`;
    length += Math.hypot(b.x - a.x, b.y - a.y);
  }
  return { path, length };
}
