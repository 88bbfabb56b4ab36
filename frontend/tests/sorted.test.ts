import { describe, expect, it } from "vitest";
import type { Verdict } from "../src/shared/api/hooks";
import { ordered } from "../src/stations/verdict/words";

const figure = (layout: string, channel: string, value: number, at_limit = false) => ({ layout, channel, value, at_limit });
const v = {
  figures: [
    figure("A", "score", 1200),
    figure("B", "score", 1500),
    figure("C", "score", 900),
    figure("A", "cpu_package_c", 44),
    figure("B", "cpu_package_c", 72, true),
    figure("D", "cpu_package_c", 39),
  ],
} as unknown as Verdict;
const names = ["A", "B", "C", "D"];

describe("a table sorted by a channel", () => {
  it("puts the best first, whichever way that channel is better", () => {
    expect(ordered(v, names, { by: "score", worstFirst: false })).toEqual(["B", "A", "C", "D"]);
    expect(ordered(v, names, { by: "cpu_package_c", worstFirst: false }).slice(0, 2)).toEqual(["D", "A"]);
  });

  it("puts what has no figure, or stood at its limit, last either way", () => {
    expect(ordered(v, names, { by: "score", worstFirst: true })).toEqual(["C", "A", "B", "D"]);
    expect(ordered(v, names, { by: "cpu_package_c", worstFirst: true })).toEqual(["A", "D", "B", "C"]);
  });
});
