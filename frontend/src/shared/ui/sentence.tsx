import { num } from "@/shared/words/lists";
import type { Schemas } from "../api/client";
import { type Kind, useUnits } from "../units/units";

type Quantity = Schemas["Quantity"];
export type Part = string | Quantity;

const KIND: Record<Quantity["kind"], Kind> = {
  difference: "difference",
  temperature: "temperature",
  level: "level",
  sound: "level",
  share: "share",
  money: "plain",
  minutes: "plain",
  power: "power",
  clock: "clock",
  time: "time",
  plain: "plain",
};
const OWN_UNIT: Partial<Record<Quantity["kind"], string>> = {
  level: "dB",
  sound: "dBA",
  minutes: "min",
  money: "",
  plain: "",
};
const DIGITS: Partial<Record<Quantity["kind"], number>> = { difference: 1, level: 1, sound: 1, time: 1, plain: 1 };

/** A quantity as words in the reader's units, its uncertainty with it. */
export function useQuantity() {
  const units = useUnits();
  return (q: Quantity, signed = false) => {
    const kind = KIND[q.kind];
    const digits = q.digits ?? num(DIGITS[q.kind]);
    const value = signed ? units.signed(kind, q.value, digits) : units.text(kind, q.value, digits);
    const band = q.band === null || q.band === undefined ? "" : ` ± ${units.text(kind, q.band, digits)}`;
    return `${value}${band} ${OWN_UNIT[q.kind] ?? units.unit(kind)}`.trim();
  };
}

/** Words and quantities as one line. */
export function Words({ parts }: { parts: Part[] }) {
  const words = useQuantity();
  const units = useUnits();
  return (
    <>
      {parts.map((p, i) =>
        typeof p === "string" ? (
          units.said(p)
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a sentence never change places
          <span key={i} className="whitespace-nowrap">
            {words(p)}
          </span>
        ),
      )}
    </>
  );
}
