import { describe, expect, it } from "vitest";
import type { Finding, LinkForecast } from "../src/shared/api/client";
import { neighbour, Plan, sizeOf } from "../src/shared/cutaway/geometry";
import { laid } from "../src/shared/cutaway/photo";
import { seenLinks } from "../src/shared/cutaway/streams";
import { folded, gathered, offers } from "../src/shared/job/findings";
import { changeProtocol, latestProtocols, planAgain } from "../src/shared/job/plan";
import { job } from "./documents";

describe("plan of a case", () => {
  it("has its front at the right and its floor below", () => {
    const plan = new Plan(job().case);
    expect(plan.at(0, 0)).toEqual({ x: 400, y: 450 });
    expect(plan.at(400, 450)).toEqual({ x: 0, y: 0 });
    expect(plan.outline).toBe("M0 0L400 0L400 450L0 450Z");
  });

  it("leans with a slanted front, mounts and outline alike", () => {
    const doc = job((d) => {
      d.case.set_back = [{ face: "front", top_mm: 45, bottom_mm: 0 }];
    });
    const plan = new Plan(doc.case);
    const [front, , rear] = doc.case.mounts ?? [];
    expect(plan.frontX(450)).toBe(355);
    expect(front && plan.lean(front)).toBeCloseTo((Math.atan2(-45, 450) * 180) / Math.PI);
    expect(rear && plan.lean(rear)).toBe(0);
  });

  it("is walked by what lies nearest in the way that was pressed", () => {
    const doc = job();
    const plan = new Plan(doc.case);
    const mounts = doc.case.mounts ?? [];
    expect(neighbour(plan, mounts, "f1", "up")).toBe("f2");
    expect(neighbour(plan, mounts, "f2", "left")).toBe("r1");
    expect(neighbour(plan, mounts, "f1", "right")).toBeNull();
    expect(neighbour(plan, mounts, null, "up")).toBe("f1");
    const turned = new Plan({ ...doc.case, window_side: "right" });
    expect(neighbour(turned, mounts, "f2", "right")).toBe("r1");
    expect(mounts[0] && sizeOf(mounts[0])).toBe(120);
  });
});

describe("a photograph", () => {
  it("is laid by two corners of the floor: scale, place and turn", () => {
    const plan = new Plan(job().case);
    const photo = {
      width_px: 1000,
      height_px: 800,
      rear_floor: { u: 0.1, v: 0.9 },
      front_floor: { u: 0.9, v: 0.9 },
    } as never;
    const own = laid(plan, photo);
    expect(own?.mmPerPx).toBeCloseTo(400 / 800);
    const [a, b, c, d, e, f] = (own?.matrix.match(/-?[\d.e-]+/g) ?? []).map(Number) as [
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const at = (u: number, v: number) => [a * u * 1000 + c * v * 800 + e, b * u * 1000 + d * v * 800 + f];
    expect(at(0.1, 0.9)[0]).toBeCloseTo(0);
    expect(at(0.1, 0.9)[1]).toBeCloseTo(450);
    expect(at(0.9, 0.9)[0]).toBeCloseTo(400);
    expect(laid(plan, { width_px: 1000, height_px: 800 } as never)).toBeNull();
  });
});

describe("streams", () => {
  const link = (id: string, tail: string, head: string, flow_m3h: number, rise_k = 1) =>
    ({ id, kind: "inside", tail, head, mount: null, flow_m3h, speed_m_s: 1, rise_k }) as LinkForecast;

  it("of the lane join those beside it, flow by flow, and what runs between both is not drawn", () => {
    const seen = seenLinks([
      link("inside:low_front|low_mid", "low_front", "low_mid", 10, 2),
      link("inside:low_front|low_side", "low_front", "low_side", 30, 6),
      link("inside:low_mid|low_side", "low_mid", "low_side", 5),
    ]);
    expect(seen.map((x) => [x.id, x.flow_m3h, x.rise_k])).toEqual([["inside:low_front|low_mid", 40, 5]]);
  });
});

describe("findings", () => {
  const finding = (code: string, mounts: string[], about: string | null = null, fixes: string[] = []) =>
    ({ code, mounts, about, fixes: fixes.map((label) => ({ label })), accepted: null }) as never;

  it("fold where three notes or more are alike, and nothing graver ever does", () => {
    const note = (code: string, mount: string, more = {}) => ({
      ...(finding(code, [mount]) as Finding),
      severity: "note" as const,
      ...more,
    });
    const own = [note("held", "f1"), note("gap", "r1"), note("held", "f2"), note("held", "f3")];
    const fold = (list: typeof own) =>
      folded(gathered(list).map((row, i) => ({ row, nth: i + 1 }))).map((x) => [x.first.nth, x.rest.map((r) => r.nth)]);
    expect(fold(own)).toEqual([
      [1, [3, 4]],
      [2, []],
    ]);
    expect(fold(own.slice(0, 3)).length).toBe(3);
    expect(fold([...own.slice(0, 3), note("held", "f3", { severity: "warning" })]).length).toBe(4);
    expect(fold([...own.slice(0, 3), note("held", "f3", { accepted: "it is quiet" })]).length).toBe(4);
  });

  it("have keys of their own, also two on one mount", () => {
    const rows = gathered([finding("a", ["f1"]), finding("a", ["f1"]), finding("a", ["f2"])]);
    expect(new Set(rows.map((r) => r.key)).size).toBe(3);
  });

  it("about one fan are one row with every remedy once", () => {
    const rows = gathered([finding("a", ["f1"], "f1 outer", ["turn", "take out"]), finding("b", ["f1"], "f1 outer", ["turn"])]);
    expect(rows).toHaveLength(1);
    expect(rows[0] && offers(rows[0]).map((f) => f.label)).toEqual(["turn", "take out"]);
  });
});

describe("protocols", () => {
  it("that runs were made with stay, and a change makes the next version", () => {
    const doc = job((d) => {
      d.protocols = [{ id: "soak", version: 1, minutes: 30 }] as never;
    });
    const longer = (p: { minutes?: number }) => {
      p.minutes = 60;
    };
    changeProtocol(doc, "soak", new Set(["soak v1"]), longer as never);
    expect(doc.protocols?.map((p) => [p.version, p.minutes])).toEqual([
      [1, 30],
      [2, 60],
    ]);
    expect(latestProtocols(doc)).toHaveLength(1);
    changeProtocol(doc, "soak", new Set(["soak v1"]), longer as never);
    expect(doc.protocols).toHaveLength(2);
  });

  it("are planned once more under ids of their own", () => {
    const doc = job((d) => {
      d.plan = {
        protocol: "soak",
        runs: [
          { id: "r1", layout: "A", load: "both" },
          { id: "r3", layout: "B", load: "both" },
        ],
      } as never;
    });
    planAgain(doc, ["A", "B"], "both");
    expect(doc.plan?.runs?.map((r) => [r.id, r.layout, r.nth]).slice(2)).toEqual([
      ["r4", "A", 2],
      ["r5", "B", 2],
    ]);
  });
});
