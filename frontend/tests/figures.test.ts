import { describe, expect, it } from "vitest";
import { scaleOf } from "../src/shared/charts/scale";
import { conversions, type Kind } from "../src/shared/units/convert";

const KINDS: Kind[] = [
  "flow",
  "pressure",
  "length",
  "temperature",
  "difference",
  "level",
  "power",
  "speed",
  "area",
  "share",
  "plain",
];

describe("units", () => {
  it("come back as they went, in both systems", () => {
    for (const system of ["metric", "trade"] as const)
      for (const kind of KINDS)
        for (const v of [-40, 0, 0.3, 1234.5]) {
          const own = conversions(system);
          expect(own.stored(kind, own.shown(kind, v))).toBeCloseTo(v, 9);
        }
  });

  // Exact by definition: the foot is 304.8 mm, the inch 25.4 mm, standard gravity 9.80665 m/s2, 32 F is 0 C.
  it("are what their definitions say", () => {
    const trade = conversions("trade");
    expect(trade.stored("flow", 1)).toBeCloseTo(0.3048 ** 3 * 60, 8);
    expect(trade.shown("length", 25.4)).toBeCloseTo(1, 12);
    expect(trade.shown("pressure", 9.80665)).toBeCloseTo(1, 12);
    expect([trade.shown("temperature", 0), trade.shown("temperature", 100)]).toEqual([32, 212]);
    expect(trade.shown("difference", 10)).toBe(18);
    expect(trade.shown("area", 6.4516)).toBeCloseTo(1, 12);
  });

  it("are written with a true minus, and nothing has no sign", () => {
    const own = conversions("metric");
    expect(own.signed("difference", -2.04)).toBe("−2.0");
    expect(own.signed("difference", 2.06)).toBe("+2.1");
    expect(own.signed("difference", -0.04)).toBe("0.0");
    expect(own.withUnit("flow", -0.2)).toBe("0 m³/h");
  });
});

describe("bands", () => {
  it("are never nought: one of the last digit stands for what is smaller", () => {
    const own = conversions("metric");
    expect(own.band("difference", 0.02, 1)).toBe("±0.1");
    expect(own.band("difference", 0.16, 1)).toBe("±0.2");
    expect(own.band("difference", 0.3)).toBe("±0.3");
    expect(own.band("difference", 4.4)).toBe("±4");
    expect(own.band("flow", 0.2, 0)).toBe("±1");
    expect(conversions("trade").band("difference", 0.01, 1)).toBe("±0.1");
  });
});

describe("scale", () => {
  it("holds every value between its ends, with round ticks inside", () => {
    const own = scaleOf([52.1, 60.9, 48.3], 300, 20);
    for (const v of [48.3, 52.1, 60.9]) {
      expect(own.at(v)).toBeLessThan(300);
      expect(own.at(v)).toBeGreaterThan(20);
    }
    expect(own.at(own.low)).toBeCloseTo(300);
    expect(own.at(own.high)).toBeCloseTo(20);
    expect(own.ticks.every((t) => t >= own.low && t <= own.high && Number.isInteger(t))).toBe(true);
    expect(own.ticks.length).toBeGreaterThanOrEqual(2);
    expect(own.ticks.length).toBeLessThanOrEqual(6);
  });

  it("has room for one value, and stands without any", () => {
    const one = scaleOf([40], 0, 100);
    expect([one.low < 40, one.high > 40, one.at(40)]).toEqual([true, true, 50]);
    expect(scaleOf([], 0, 100).at(0.5)).toBe(50);
    expect(scaleOf([Number.NaN, 3], 0, 10).at(3)).toBe(5);
  });
});
