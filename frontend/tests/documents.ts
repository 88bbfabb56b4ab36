import type { JobDoc, LayoutDoc } from "../src/shared/api/client";

/** A small job: two mounts in front, one at the rear, one on top; two layouts. Made up for the tests. */
export function job(change: (doc: JobDoc) => void = () => {}): JobDoc {
  const mount = (id: string, face: string, x: number, y: number, z: number) => ({
    id,
    face,
    centre_mm: { x, y, z },
    sizes_mm: [120],
  });
  const doc = {
    format: "oventa-job",
    version: 1,
    name: "a small job",
    case: {
      inner_mm: { depth: 400, height: 450, width: 200 },
      board_depth_mm: 244,
      cpu_centre_mm: { x: 280, z: 320 },
      mounts: [
        mount("f1", "front", 0, 100, 120),
        mount("f2", "front", 0, 100, 260),
        mount("r1", "rear", 400, 100, 320),
        mount("t1", "top", 300, 100, 450),
      ],
    },
    parts: { fans: [{ id: "n120", size_mm: 120 }] },
    curves: [{ id: "warm", source: "cpu", points: [[40, 30]] }],
    base: { cpu: "c" },
    layouts: [
      {
        id: "A",
        name: "first",
        fans: [
          { mount: "f1", fan: "n120", direction: "intake", speed_pct: 80 },
          { mount: "r1", fan: "n120", direction: "exhaust", speed_pct: 60 },
        ],
      },
      { id: "B", name: "second", fans: [] },
    ],
  } as unknown as JobDoc;
  change(doc);
  return doc;
}

export const layout = (doc: JobDoc, id = "A") => doc.layouts?.find((x) => x.id === id) as LayoutDoc;
