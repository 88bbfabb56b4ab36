import { describe, expect, it } from "vitest";
import { type History, MOST_STEPS, after as made } from "../src/shared/job/history";
import { job } from "./documents";

const start = (): History => ({ document: job(), past: [], future: [], changes: 0 });
const rename = (state: History, name: string, join?: string, label = "name") =>
  made(state, {
    kind: "edit",
    label,
    join,
    change: (d) => {
      d.name = name;
    },
  });

describe("history", () => {
  it("takes back and does again, each step with its words", () => {
    const one = rename(start(), "one");
    const two = rename(one, "two", undefined, "name again");
    expect(two.past.map((s) => s.label)).toEqual(["name", "name again"]);
    const back = made(two, { kind: "undo" });
    expect(back.document.name).toBe("one");
    expect(back.future.at(-1)?.label).toBe("name again");
    const again = made(back, { kind: "redo" });
    expect(again.document).toBe(two.document);
    expect(again.changes).toBe(4);
  });

  it("joins what one touch of one field changes, and nothing else", () => {
    let state = start();
    for (const text of ["n", "no", "not", "note"]) state = rename(state, text, "7");
    expect(state.past).toHaveLength(1);
    expect(state.changes).toBe(4);
    expect(made(state, { kind: "undo" }).document.name).toBe("a small job");
    expect(rename(state, "other", "8").past).toHaveLength(2);
    expect(rename(state, "other", "7", "another field").past).toHaveLength(2);
    expect(rename(state, "other").past).toHaveLength(2);
  });

  it("joins nothing to a step that was taken back", () => {
    const typed = rename(rename(start(), "a", "1"), "b", "2");
    const back = made(typed, { kind: "undo" });
    const more = rename(back, "c", "1");
    expect(more.past).toHaveLength(2);
    expect(more.future).toEqual([]);
  });

  it("leaves what an edit does not touch the same object", () => {
    const before = start();
    const next = rename(before, "other");
    expect(next.document.case).toBe(before.document.case);
    expect(next.document.layouts).toBe(before.document.layouts);
  });

  it("makes no step of a change that changes nothing", () => {
    const before = start();
    expect(made(before, { kind: "edit", label: "nothing", change: () => {} })).toBe(before);
    expect(made(before, { kind: "undo" })).toBe(before);
    expect(made(before, { kind: "redo" })).toBe(before);
  });

  it("keeps the last steps of many", () => {
    let state = start();
    for (let i = 0; i < MOST_STEPS + 5; i++) state = rename(state, `name ${i}`);
    expect(state.past).toHaveLength(MOST_STEPS);
    expect(state.past[0]?.document.name).toBe("name 4");
  });

  it("adopts one of two states and leaves the other one undo away", () => {
    const mine = job((d) => {
      d.name = "mine";
    });
    const state = made(start(), { kind: "adopt", label: "keep the newer state", document: job(), instead: mine });
    expect(made(state, { kind: "undo" }).document.name).toBe("mine");
  });

  it("takes what is on a wall along when the wall moves", () => {
    const deeper = made(start(), {
      kind: "edit",
      label: "depth inside",
      change: (d) => {
        d.case.inner_mm.depth = 420;
      },
    });
    const at = (id: string) => deeper.document.case.mounts?.find((m) => m.id === id)?.centre_mm;
    expect(at("r1")?.x).toBe(420);
    expect(at("f1")?.x).toBe(0);
    expect(deeper.document.case.cpu_centre_mm?.x).toBe(300);
    expect(made(deeper, { kind: "undo" }).document.case.mounts?.find((m) => m.id === "r1")?.centre_mm.x).toBe(400);
  });
});
