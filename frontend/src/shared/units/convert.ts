export type System = "metric" | "trade";
export type Kind =
  | "flow"
  | "pressure"
  | "length"
  | "temperature"
  | "difference"
  | "level"
  | "power"
  | "speed"
  | "area"
  | "share"
  | "plain";

type Unit = { unit: string; digits: number; factor: number; offset: number };
/** A figure, or none: what is not known is shown as such, never as nought. */
export type Known = number | null | undefined;
const NOT_KNOWN = "–";

const METRIC: Record<Kind, Unit> = {
  flow: { unit: "m³/h", digits: 0, factor: 1, offset: 0 },
  pressure: { unit: "Pa", digits: 1, factor: 1, offset: 0 },
  length: { unit: "mm", digits: 0, factor: 1, offset: 0 },
  temperature: { unit: "°C", digits: 1, factor: 1, offset: 0 },
  difference: { unit: "K", digits: 1, factor: 1, offset: 0 },
  level: { unit: "dBA", digits: 0, factor: 1, offset: 0 },
  power: { unit: "W", digits: 0, factor: 1, offset: 0 },
  speed: { unit: "rpm", digits: 0, factor: 1, offset: 0 },
  area: { unit: "cm²", digits: 0, factor: 1, offset: 0 },
  share: { unit: "%", digits: 0, factor: 1, offset: 0 },
  plain: { unit: "", digits: 2, factor: 1, offset: 0 },
};

const TRADE: Record<Kind, Unit> = {
  ...METRIC,
  flow: { unit: "CFM", digits: 0, factor: 1 / 1.699010796, offset: 0 },
  pressure: { unit: "mmH₂O", digits: 2, factor: 1 / 9.80665, offset: 0 },
  length: { unit: "in", digits: 2, factor: 1 / 25.4, offset: 0 },
  temperature: { unit: "°F", digits: 1, factor: 1.8, offset: 32 },
  difference: { unit: "°F", digits: 1, factor: 1.8, offset: 0 },
  area: { unit: "in²", digits: 1, factor: 1 / 6.4516, offset: 0 },
};

export type Conversions = {
  unit: (kind: Kind) => string;
  shown: (kind: Kind, value: number) => number;
  stored: (kind: Kind, value: number) => number;
  text: (kind: Kind, value: Known, digits?: number) => string;
  signed: (kind: Kind, value: Known, digits?: number) => string;
  withUnit: (kind: Kind, value: Known, digits?: number) => string;
  /** A band, whole; under one with its tenth: a band is never nought. */
  band: (kind: Kind, value: Known) => string;
};

/** Figures as a system of units writes them, and back; everything stored and sent stays metric. */
export function conversions(system: System): Conversions {
  const table = system === "metric" ? METRIC : TRADE;
  const shown = (kind: Kind, v: number) => v * table[kind].factor + table[kind].offset;
  const text = (kind: Kind, v: Known, digits = table[kind].digits) =>
    v === null || v === undefined ? NOT_KNOWN : tidy(shown(kind, v).toFixed(digits));
  return {
    unit: (kind) => table[kind].unit,
    shown,
    stored: (kind, v) => (v - table[kind].offset) / table[kind].factor,
    text,
    signed: (kind, v, digits) => {
      const words = text(kind, v, digits);
      return words === NOT_KNOWN || words.startsWith("−") || Number(words) === 0 ? words : `+${words}`;
    },
    withUnit: (kind, v, digits) => `${text(kind, v, digits)} ${table[kind].unit}`,
    band: (kind, v) => {
      const whole = text(kind, v, 0);
      return `±${Number(whole) < 2 ? text(kind, v, 1) : whole}`;
    },
  };
}

/** A true minus sign, and no minus before nothing. */
const tidy = (digits: string) => (Number(digits) === 0 ? digits.replace("-", "") : digits.replace("-", "−"));

/** Seconds as whole minutes. */
export const minutes = (seconds: number) => `${Math.round(seconds / 60)} min`;
