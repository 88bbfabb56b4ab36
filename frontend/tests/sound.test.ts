import { describe, expect, it } from "vitest";
import { gains, type Sounding } from "../src/stations/bench/sound/gains";
import { wav } from "../src/stations/bench/sound/record";

const db = (x: number) => 20 * Math.log10(x);
const quiet: Sounding = { level: 30, offset: 100, tied: true, peak: 0.001 };
const loud: Sounding = { level: 36, offset: 100, tied: true, peak: 0.002 };

describe("two by ear", () => {
  it("are at one gain, and the loudest sample keeps its room", () => {
    const [a, b] = gains(quiet, loud, false);
    expect(a).toBeCloseTo(b, 12);
    expect(b * loud.peak).toBeCloseTo(0.7, 12);
  });

  it("of recorders at unlike gains differ by what there is", () => {
    // The same samples at 20 dB more of full scale are 20 dB louder in truth.
    const [a, b] = gains({ ...quiet, offset: 80 }, { ...quiet, level: 50, offset: 100 }, false);
    expect(db(b) - db(a)).toBeCloseTo(20, 9);
  });

  it("brought to one level, only the louder is lower beside the other", () => {
    const [a, b] = gains(quiet, loud, true);
    expect(db(a) - db(b)).toBeCloseTo(6, 9);
    expect(Math.max(a * quiet.peak, b * loud.peak)).toBeLessThanOrEqual(0.7 + 1e-12);
  });

  it("of which one is tied to no level keep what they are beside each other", () => {
    const [a, b] = gains(quiet, { ...loud, tied: false, offset: 0, level: -60 }, true);
    expect(a).toBeCloseTo(b, 12);
  });

  it("that are silent stay so", () => {
    const nothing = { ...quiet, peak: 0 };
    expect(gains(nothing, nothing, false)).toEqual([1, 1]);
  });

  it("may be asked in either order", () => {
    for (const matched of [false, true]) {
      const [a, b] = gains(quiet, loud, matched);
      const [c, d] = gains(loud, quiet, matched);
      expect([a, b]).toEqual([d, c]);
    }
  });
});

describe("a recording", () => {
  const samples = Float32Array.from([0, 0.5, -0.25, 1]);
  const view = new DataView(wav(samples, 48000));
  const text = (at: number) => String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(at + i)));

  it("says what it is, byte by byte as WAV has it", () => {
    expect([text(0), text(8), text(12), text(36)]).toEqual(["RIFF", "WAVE", "fmt ", "data"]);
    expect(view.getUint32(4, true)).toBe(view.byteLength - 8);
    expect([view.getUint16(20, true), view.getUint16(22, true)]).toEqual([3, 1]);
    expect([view.getUint32(24, true), view.getUint32(28, true)]).toEqual([48000, 192000]);
    expect([view.getUint16(32, true), view.getUint16(34, true), view.getUint32(40, true)]).toEqual([4, 32, 16]);
  });

  it("holds its samples unrounded", () => {
    expect([0, 1, 2, 3].map((i) => view.getFloat32(44 + 4 * i, true))).toEqual([...samples]);
  });
});
