import type { useUnits } from "@/shared/units/units";

/** A channel that goes round its mean without end, in words to follow others; nothing where it does not. */
export function swing(channel: { hunts_s?: number | null; hunts_k?: number | null }, units: ReturnType<typeof useUnits>): string {
  if (!channel.hunts_s || !channel.hunts_k) return "";
  return `, swings ${units.band("difference", channel.hunts_k, 1)} ${units.unit("difference")} every ${Math.round(channel.hunts_s)} s`;
}
