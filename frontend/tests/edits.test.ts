import { describe, expect, it } from "vitest";
import {
  changeFan,
  dropMounts,
  duplicateLayout,
  flip,
  followWalls,
  freeId,
  freeLayoutId,
  moveFan,
  putFan,
  releasedBy,
  removeLayout,
  setBackAt,
  setSpeeds,
  speedBy,
  takeOut,
  usualWay,
  withoutCurve,
} from "../src/shared/job/edits";
import { job, layout } from "./documents";

describe("layouts", () => {
  it("get the next letter, and beyond the alphabet a number", () => {
    expect(freeLayoutId(job())).toBe("C");
    const full = job((d) => {
      d.layouts = [..."ABCDEFGHIJKLMNOPQRSTUVWXYZ"].map((id) => ({ id, name: "", fans: [] })) as typeof d.layouts;
    });
    expect(freeLayoutId(full)).toBe("L27");
  });

  it("are copied without what was accepted, after the one they come from", () => {
    const doc = job((d) => {
      layout(d).accepted = [{ code: "x", reason: "y" }] as never;
    });
    duplicateLayout(doc, "A", "C");
    expect(doc.layouts?.map((x) => x.id)).toEqual(["A", "C", "B"]);
    expect([layout(doc, "C").parent, layout(doc, "C").accepted, layout(doc, "C").name]).toEqual(["A", [], "first, changed"]);
    layout(doc, "C").fans?.pop();
    expect(layout(doc).fans).toHaveLength(2);
  });

  it("of a copy are told apart by a number", () => {
    const doc = job();
    duplicateLayout(doc, "A", "C");
    duplicateLayout(doc, "C", "D");
    duplicateLayout(doc, "A", "E");
    const names = Object.fromEntries((doc.layouts ?? []).map((x) => [x.id, x.name]));
    expect([names.C, names.D, names.E]).toEqual(["first, changed", "first, changed 2", "first, changed 3"]);
  });

  it("leave plan and ideas when they are removed", () => {
    const doc = job((d) => {
      d.plan = {
        protocol: "p",
        control: "A",
        runs: [
          { id: "r1", layout: "A" },
          { id: "r2", layout: "B" },
        ],
        guess: { best: "A" },
      } as never;
      d.ideas = [{ id: "i", text: "t", layout: "A" }];
    });
    removeLayout(doc, "A");
    expect([doc.plan?.control, doc.plan?.guess?.best, doc.plan?.runs?.map((r) => r.id), doc.ideas?.[0]?.layout]).toEqual([
      null,
      null,
      ["r2"],
      null,
    ]);
  });
});

describe("fans", () => {
  it("are put, turned, moved, changed places with and taken out", () => {
    const doc = job();
    putFan(doc, "A", "t1", "n120", usualWay("top"), false);
    putFan(doc, "A", "t1", "n120", "intake", true);
    expect(
      layout(doc)
        .fans?.filter((f) => f.mount === "t1")
        .map((f) => [f.direction, f.layer ?? "outer"]),
    ).toEqual([
      ["exhaust", "outer"],
      ["intake", "inner"],
    ]);
    changeFan(doc, "A", "t1", "outer", flip);
    expect(layout(doc).fans?.find((f) => f.mount === "t1" && !f.layer)?.direction).toBe("intake");
    moveFan(doc, "A", "f1", "outer", "r1");
    expect(
      layout(doc)
        .fans?.map((f) => f.mount)
        .slice(0, 2),
    ).toEqual(["r1", "f1"]);
    takeOut(doc, "A", "t1", "inner");
    expect(layout(doc).fans).toHaveLength(3);
  });

  it("go faster by steps within their limits, off a curve from the speed they had", () => {
    const doc = job((d) => {
      const [first, second] = layout(d).fans ?? [];
      if (first) first.curve = "warm";
      if (second) second.speed_pct = 98;
    });
    speedBy(doc, "A", "f1", "outer", 5, 43.4);
    speedBy(doc, "A", "r1", "outer", 5, 98);
    expect(layout(doc).fans?.map((f) => [f.speed_pct, f.curve ?? null])).toEqual([
      [48, null],
      [100, null],
    ]);
  });

  it("of a group are set as a group, and let go where they part", () => {
    const grouped = () =>
      job((d) => {
        layout(d).groups = [{ id: "g", speed_pct: 50, curve: "warm" }] as never;
        for (const f of layout(d).fans ?? []) f.group = "g";
      });
    const same = grouped();
    expect(releasedBy(layout(same), { f1: 70, r1: 70 })).toEqual(["group g leaves its curve"]);
    setSpeeds(same, "A", { f1: 70, r1: 70 });
    expect([layout(same).groups?.[0]?.speed_pct, layout(same).groups?.[0]?.curve]).toEqual([70, null]);
    const apart = grouped();
    expect(releasedBy(layout(apart), { f1: 70, r1: 40 })).toEqual(["group g parts"]);
    setSpeeds(apart, "A", { f1: 70, r1: 40 });
    expect(layout(apart).fans?.map((f) => [f.group, f.speed_pct])).toEqual([
      [null, 70],
      [null, 40],
    ]);
  });
});

describe("what is removed", () => {
  it("is named nowhere afterwards", () => {
    const doc = job((d) => {
      for (const f of layout(d).fans ?? []) f.curve = "warm";
      d.base = { cooler_curve: "warm" } as never;
    });
    withoutCurve(doc, "warm");
    dropMounts(doc, ["r1"]);
    expect(JSON.stringify(doc)).not.toContain("warm");
    expect(JSON.stringify(doc.layouts)).not.toContain("r1");
    expect(doc.case.mounts?.map((m) => m.id)).toEqual(["f1", "f2", "t1"]);
  });

  it("leaves ids that are free again", () => {
    expect([freeId(["f", "f2"], "f"), freeId([], "f"), freeId(["f1"], "f", true)]).toEqual(["f3", "f", "f2"]);
  });
});

describe("walls", () => {
  it("that lean take their mounts along by their height", () => {
    const before = job();
    const doc = job((d) => {
      d.case.set_back = [{ face: "front", top_mm: 45, bottom_mm: 0 }];
    });
    expect(setBackAt(doc.case, "front", 225)).toBe(22.5);
    expect(setBackAt(doc.case, "rear", 225)).toBe(0);
    followWalls(doc, before.case);
    expect(doc.case.mounts?.find((m) => m.id === "f1")?.centre_mm.x).toBeCloseTo(12);
    expect(doc.case.mounts?.find((m) => m.id === "f2")?.centre_mm.x).toBeCloseTo(26);
  });

  it("that come nearer keep the mounts' share of the width", () => {
    const before = job();
    const doc = job((d) => {
      d.case.inner_mm.width = 160;
      d.case.inner_mm.height = 400;
    });
    followWalls(doc, before.case);
    expect(doc.case.mounts?.[0]?.centre_mm.y).toBe(80);
    expect(doc.case.mounts?.find((m) => m.id === "t1")?.centre_mm.z).toBe(400);
  });
});
