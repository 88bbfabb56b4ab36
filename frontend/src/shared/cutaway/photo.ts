import type { JobDoc } from "../api/client";
import type { Plan } from "./geometry";

type Photo = NonNullable<JobDoc["case"]["photo"]>;

/** How a photograph is laid under the drawing: an SVG matrix, and millimetres per pixel. Nothing without its two corners. */
export function laid(plan: Plan, photo: Photo): { matrix: string; mmPerPx: number } | null {
  const { rear_floor: a, front_floor: b } = photo;
  if (!a || !b) return null;
  // A drawing that is turned over shows the case from the other side: so does the photograph.
  const turn = plan.mirrored ? -1 : 1;
  const p = { x: turn * a.u * photo.width_px, y: a.v * photo.height_px };
  const q = { x: turn * b.u * photo.width_px, y: b.v * photo.height_px };
  const along = { x: q.x - p.x, y: q.y - p.y };
  const px = Math.hypot(along.x, along.y);
  if (px < 10) return null;
  const mmPerPx = (photo.apart_mm ?? plan.depth) / px;
  const c = (along.x / px) * mmPerPx;
  const s = (-along.y / px) * mmPerPx;
  const x = -(c * p.x - s * p.y);
  const y = plan.height - (s * p.x + c * p.y);
  return { matrix: `matrix(${turn * c} ${turn * s} ${-s} ${c} ${x} ${y})`, mmPerPx };
}
