import { MEASURES } from "../words/generated";
import type { Kind, System } from "./kinds";
import { said } from "./said";

export type { Kind, System } from "./kinds";

/** A figure, or none: what is not known is shown as such, never as nought. */
export type Known = number | null | undefined;
const NOT_KNOWN = "–";

export type Conversions = {
  unit: (kind: Kind) => string;
  shown: (kind: Kind, value: number) => number;
  stored: (kind: Kind, value: number) => number;
  text: (kind: Kind, value: Known, digits?: number) => string;
  signed: (kind: Kind, value: Known, digits?: number) => string;
  withUnit: (kind: Kind, value: Known, digits?: number) => string;
  /** A reading as an instrument gives it: turns and megahertz whole, others to a tenth, what has no unit as it is. */
  reading: (kind: Kind, value: number) => string;
  /** A band, whole, or with its tenth where it is small, or with the digits given; never nought, but one of its last digit. */
  band: (kind: Kind, value: Known, digits?: number) => string;
  /** A sentence with its measures in the reader's units. */
  said: (text: string) => string;
};

/** Figures as a system of units writes them, and back; everything stored and sent stays metric. */
export function conversions(system: System): Conversions {
  const table: Record<Kind, { unit: string; digits: number; factor: number; offset: number }> = MEASURES[system];
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
    reading: (kind, v) => (kind === "plain" ? String(v) : text(kind, v, kind === "speed" || kind === "clock" ? 0 : 1)),
    band: (kind, v, digits) => {
      const places = digits ?? (Number(text(kind, v, 0)) < 2 ? 1 : 0);
      const words = text(kind, v, places);
      return `±${Number(words) === 0 ? (10 ** -places).toFixed(places) : words}`;
    },
    said: (words) => said(words, system),
  };
}

/** A true minus sign, and no minus before nothing. */
const tidy = (digits: string) => (Number(digits) === 0 ? digits.replace("-", "") : digits.replace("-", "−"));

/** Seconds as whole minutes. */
export const minutes = (seconds: number) => `${Math.round(seconds / 60)} min`;
