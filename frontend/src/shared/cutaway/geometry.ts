import { num } from "@/shared/words/lists";
import { usual } from "@/shared/words/words";
import type { Face, JobDoc, LayoutForecast, MountDoc } from "../api/client";
import { setBackAt } from "../job/edits";

/** Millimetres of the case to the drawing: seen through the window side, front at the right, floor below. */
export type Pt = { x: number; y: number };
export type Box = { x: number; y: number; w: number; h: number };

export class Plan {
  readonly depth: number;
  readonly height: number;
  readonly width: number;
  /** One drawing unit: text and margins keep their size whatever the case measures. */
  readonly u: number;
  readonly shroud: number;

  readonly case: JobDoc["case"];

  constructor(case_: JobDoc["case"]) {
    this.case = case_;
    const inner = case_.inner_mm;
    this.depth = inner.depth;
    this.height = inner.height;
    this.width = inner.width;
    this.u = Math.max(inner.depth * 0.86, inner.height) / 480;
    this.shroud = num(case_.shroud?.height_mm);
  }

  /** The window on the other side: the drawing is turned over, what is written in it is not. */
  get mirrored(): boolean {
    return this.case.window_side === "right";
  }

  at(x: number, z: number): Pt {
    return { x: this.depth - x, y: this.height - z };
  }

  /** Where the front's and the rear's inner sides are drawn at a height. */
  frontX(z: number): number {
    return this.depth - setBackAt(this.case, "front", z);
  }
  rearX(z: number): number {
    return setBackAt(this.case, "rear", z);
  }

  /** The inside as a path: a box, or with faces set back or slanted. */
  get outline(): string {
    const { height: h } = this;
    return `M${this.rearX(h)} 0L${this.frontX(h)} 0L${this.frontX(0)} ${h}L${this.rearX(0)} ${h}Z`;
  }

  /** Chambers side by side: the card's lies behind the board tray and is drawn below it, as large as it is. */
  get behindTray(): number {
    if (this.case.card_chamber !== "separate" || !this.case.card_side_mm) return 0;
    return (this.height * this.case.card_side_mm) / this.width;
  }

  get cardHeight(): number {
    if (this.behindTray) return this.behindTray / 2;
    return this.case.card_height_mm ?? Math.max(this.height - 220, 0.3 * this.height);
  }

  get cpu(): Pt {
    const own = this.case.cpu_centre_mm;
    const x = own?.x ?? this.depth - (this.case.board_depth_mm ?? usual("case.board_depth_mm")) / 2;
    return this.at(x, own?.z ?? (this.cardHeight + this.height) / 2);
  }

  get windowMounts(): MountDoc[] {
    return (this.case.mounts ?? []).filter((m) => m.face === "window");
  }

  get viewBox(): string {
    const side = 96 * this.u;
    const fold = this.windowMounts.length ? this.depth * FOLD + 30 * this.u : 0;
    const x = this.mirrored ? -side : -side - fold; // the unfolded side stands beside the rear
    return `${x} ${-62 * this.u} ${this.depth + 2 * side + fold} ${this.height + 118 * this.u + this.below}`;
  }

  /** Room under the floor for what stands written beside mounts in it. */
  get below(): number {
    return this.case.mounts?.some((m) => m.face === "bottom" && !m.on_shroud) ? 40 * this.u : 0;
  }

  /** A stretch of a face from `from` to `to` mm inward of the wall, `along` mm long around a mount's centre. */
  onFace(mount: MountDoc, along: number, from: number, to: number): Box {
    const c = this.at(mount.centre_mm.x, mount.centre_mm.z);
    const half = along / 2;
    const front = this.frontX(mount.centre_mm.z);
    const rear = this.rearX(mount.centre_mm.z);
    if (mount.face === "front") return { x: front - to, y: c.y - half, w: to - from, h: along };
    if (mount.face === "rear") return { x: rear + from, y: c.y - half, w: to - from, h: along };
    if (mount.face === "top") return { x: c.x - half, y: from, w: along, h: to - from };
    const floor = mount.on_shroud ? this.height - this.shroud : this.height;
    return { x: c.x - half, y: floor - to, w: along, h: to - from };
  }

  /** How far a mount's face leans, in degrees clockwise; its parts are drawn upright at the wall and turned about it. */
  lean(mount: MountDoc): number {
    if (mount.face !== "front" && mount.face !== "rear") return 0;
    const x = (z: number) => (mount.face === "front" ? this.frontX(z) : this.rearX(z));
    return (Math.atan2(x(this.height) - x(0), this.height) * 180) / Math.PI;
  }

  /** Where a mount's air crosses the wall, and the way inward. */
  gate(mount: MountDoc): { wall: Pt; inward: Pt } {
    const c = this.at(mount.centre_mm.x, mount.centre_mm.z);
    const floor = mount.on_shroud ? this.height - this.shroud : this.height;
    const by: Record<Face, { wall: Pt; inward: Pt }> = {
      front: { wall: { x: this.frontX(mount.centre_mm.z), y: c.y }, inward: { x: -1, y: 0 } },
      rear: { wall: { x: this.rearX(mount.centre_mm.z), y: c.y }, inward: { x: 1, y: 0 } },
      top: { wall: { x: c.x, y: 0 }, inward: { x: 0, y: 1 } },
      bottom: { wall: { x: c.x, y: floor }, inward: { x: 0, y: -1 } },
      window: { wall: { x: c.x, y: c.y }, inward: { x: 0, y: 0 } },
    };
    return by[mount.face];
  }
}

export const FOLD = 0.42;

/** Where a node is seen: the lane along the window lies in front of the middle column in this view. */
export const seenAs = (node: string) => node.replace(/_side$/, "_mid");

/** Spaces as seen from the window: a column and its lane as one, at their mean temperature. */
export function seenSpaces(forecast: LayoutForecast | undefined): LayoutForecast["air"]["spaces"] {
  const all = forecast?.air.spaces ?? [];
  return all
    .filter((s) => s.id === seenAs(s.id))
    .map((s) => {
      const lane = all.find((other) => other.id !== s.id && seenAs(other.id) === s.id);
      return lane ? { ...s, temperature_c: (s.temperature_c + lane.temperature_c) / 2 } : s;
    });
}

/** Middle of every space in the drawing, from the forecast's own limits. */
export function spaceCentres(plan: Plan, forecast: LayoutForecast | undefined): Map<string, Pt> {
  const found = new Map<string, Pt>();
  for (const s of seenSpaces(forecast)) found.set(s.id, plan.at((s.x_from_mm + s.x_to_mm) / 2, (s.z_from_mm + s.z_to_mm) / 2));
  return found;
}

export const sizeOf = (mount: MountDoc) => mount.opening_mm ?? Math.max(...mount.sizes_mm);

/** The nearest mount in a direction on the screen; side-panel mounts count at their place in the drawing. */
export function neighbour(
  plan: Plan,
  mounts: MountDoc[],
  from: string | null,
  way: "left" | "right" | "up" | "down",
): string | null {
  const here = mounts.find((m) => m.id === from);
  if (!here) return mounts[0]?.id ?? null;
  const p = plan.gate(here).wall;
  const turned = plan.mirrored ? ({ left: "right", right: "left", up: "up", down: "down" } as const)[way] : way;
  let best: { id: string; cost: number } | null = null;
  for (const m of mounts) {
    if (m.id === from) continue;
    const q = plan.gate(m).wall;
    const along = turned === "left" ? p.x - q.x : turned === "right" ? q.x - p.x : turned === "up" ? p.y - q.y : q.y - p.y;
    const across = turned === "left" || turned === "right" ? Math.abs(q.y - p.y) : Math.abs(q.x - p.x);
    if (along <= 1) continue;
    const cost = along + 1.6 * across;
    if (!best || cost < best.cost) best = { id: m.id, cost };
  }
  return best?.id ?? null;
}
