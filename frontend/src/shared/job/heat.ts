import { unitKind, usual } from "@/shared/words/words";
import { useUnits } from "../units/units";
import { useJob } from "./store";

/** A figure of a channel as the reader wants temperatures: over room, or in the job's own room. Differences stay differences. */
export function useHeat() {
  const units = useUnits();
  const { document } = useJob();
  const room = document.room?.temperature_c ?? usual("room.temperature_c");
  const absolute = (channel: string) => channel.endsWith("_c") && units.scale === "absolute";
  const unitOf = (channel: string) => (absolute(channel) ? units.unit("temperature") : units.unit(unitKind(channel)));
  return {
    text: (channel: string, value: number, digits = 1) =>
      absolute(channel) ? units.text("temperature", room + value, digits) : units.text(unitKind(channel), value, digits),
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
