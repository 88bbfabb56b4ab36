import { useUnits } from "@/shared/units/units";

/** A difference with its expanded uncertainty, in the reader's units. */
export function useDifference() {
  const units = useUnits();
  return (d: number, band: number) =>
    `${units.signed("difference", d, 1)} ${units.band("difference", band, 1)} ${units.unit("difference")}`;
}
