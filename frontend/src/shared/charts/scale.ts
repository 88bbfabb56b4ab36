/** A straight scale from values to places, with round ticks inside it. */
export type Scale = { at: (value: number) => number; ticks: number[]; low: number; high: number };

export function scaleOf(values: number[], from: number, to: number, least = 1): Scale {
  const known = values.filter(Number.isFinite);
  const min = Math.min(...known);
  const max = Math.max(...known);
  const spread = Math.max(max - min, least);
  const low = known.length ? (min + max) / 2 - spread * 0.58 : 0;
  const high = known.length ? (min + max) / 2 + spread * 0.58 : 1;
  return { at: (v) => from + ((v - low) / (high - low)) * (to - from), ticks: ticksOf(low, high), low, high };
}

function ticksOf(low: number, high: number): number[] {
  const rough = (high - low) / 4;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = ([1, 2, 5].find((s) => s * power >= rough) || 10) * power;
  const found: number[] = [];
  for (let v = Math.ceil(low / step) * step; v <= high + 1e-9; v += step) found.push(Number(v.toFixed(6)));
  return found;
}
