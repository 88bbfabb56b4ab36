import { ENDS, unitKind, usual } from "@/shared/words/words";
import { useUnits } from "../units/units";
import { useJob } from "./store";

/** A figure of a channel as the reader wants temperatures: over room, or in the job's own room. Differences stay differences. */
export function useHeat() {
  const units = useUnits();
  const { document } = useJob();
  const room = document.room?.temperature_c ?? usual("room.temperature_c");
  const absolute = (channel: string) => channel.endsWith("_c") && units.scale === "absolute";
  const unitOf = (channel: string) => (absolute(channel) ? units.unit("temperature") : units.unit(unitKind(channel)));
  const text = (channel: string, value: number, digits = 1) =>
    absolute(channel) ? units.text("temperature", room + value, digits) : units.text(unitKind(channel), value, digits);
  // What has no unit, such as a score, is worth no tenth beside a band of two digits.
  const digits = (channel: string, band: number) => (unitKind(channel) === "plain" && band >= ENDS.whole_band ? 0 : 1);
  return {
    text,
    /** A figure and its band, to the digits that the band is worth. */
    banded: (channel: string, value: number, band: number): [string, string] => [
      text(channel, value, digits(channel, band)),
      units.band(unitKind(channel), band, digits(channel, band)),
    ],
    /** The same of a difference. */
    apart: (channel: string, value: number, band: number) => {
      const [kind, places] = [unitKind(channel), digits(channel, band)];
      return `${units.signed(kind, value, places)} ${units.band(kind, band, places)}`;
    },
    /** ", K" behind a channel's name; nothing for one that has no unit. */
    unitAfter: (channel: string) => {
      const unit = unitOf(channel);
      return unit && `, ${unit}`;
    },
    unit: unitOf,
    /** What stands beside a channel's name in a heading. */
    basis: (channel: string) =>
      !channel.endsWith("_c") ? "" : absolute(channel) ? ` in a room of ${units.withUnit("temperature", room, 0)}` : " over room",
  };
}
