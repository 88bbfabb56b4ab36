import type { useUnits } from "@/shared/units/units";
import { unitKind } from "@/shared/words/words";

/** A channel that goes round its mean without end, in words to follow others; nothing where it does not. */
export function swing(
  channel: { name: string; hunts_s?: number | null; hunts_k?: number | null },
  units: ReturnType<typeof useUnits>,
): string {
  if (!channel.hunts_s || !channel.hunts_k) return "";
  const kind = channel.name.endsWith("_c") ? "difference" : unitKind(channel.name);
  return `, swings ${units.band(kind, channel.hunts_k, 1)} ${units.unit(kind)} every ${Math.round(channel.hunts_s)} s`;
}
