import { MEASURED, MEASURES } from "../words/generated";
import type { Kind, System } from "./kinds";

const UNITS = Object.entries(MEASURES.metric) as [Kind, { unit: string }][];
const NUMBER = new RegExp(MEASURED.number, "g");
const PATTERN = new RegExp(MEASURED.pattern, "g");
const NAMED: readonly string[] = MEASURED.named_mm;

/** A sentence, its measures in the reader's units; names of sizes (a 120 mm fan) stay. */
export function said(text: string, system: System): string {
  if (system === "metric") return text;
  return text.replace(PATTERN, (whole: string, numbers: string, unit: string) => {
    const kind = UNITS.find(([, own]) => own.unit === unit)?.[0];
    if (!kind || (kind === "length" && (numbers.match(NUMBER) ?? []).every((n) => NAMED.includes(n)))) return whole;
    // What stands behind ± is a difference.
    const [value, ...bands] = numbers.split(/(?<=[\d ])± ?/);
    const rest = bands.map((b) => written(b, kind === "temperature" ? "difference" : kind));
    const between = numbers.includes(" ±") ? "± " : "±";
    return `${[written(value ?? "", kind), ...rest].join(between)} ${MEASURES.trade[kind].unit}`;
  });
}

const written = (numbers: string, kind: Kind) => numbers.replace(NUMBER, (n) => number(n, kind));

/** One number; a plus or ± before °C tells of a difference, a minus of frost. */
function number(text: string, kind: Kind): string {
  const sign = /^[+±−-]/.test(text) ? text.charAt(0) : "";
  const bare = text.slice(sign.length);
  const own = MEASURES.trade[kind === "temperature" && (sign === "+" || sign === "±") ? "difference" : kind];
  const value = Number(bare) * (sign === "−" || sign === "-" ? -1 : 1) * own.factor + own.offset;
  const digits = kind === "temperature" && !bare.includes(".") ? 0 : own.digits;
  const kept = sign === "+" || sign === "±" ? sign : value < 0 ? "−" : "";
  return kept + Math.abs(value).toFixed(digits);
}
