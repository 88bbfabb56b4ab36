import type { JobDoc, LayoutDoc } from "@/shared/api/client";

export const TOWER_WAYS = [
  { value: "rear", words: "to the rear" },
  { value: "up", words: "up" },
  { value: "front", words: "to the front" },
];
export const DOWNDRAFT_WAYS = [
  { value: "toward", words: "toward the board" },
  { value: "away", words: "away from the board" },
];
export const FAN_SIDES = [
  { value: "above", words: "above its fins" },
  { value: "below", words: "below its fins" },
];
const TUBE_WAYS = [
  { value: "rear", words: "to the rear" },
  { value: "front", words: "to the front" },
  { value: "top", words: "at the top" },
  { value: "bottom", words: "at the bottom" },
];
const UPRIGHT_ONLY = ["top", "bottom"];

/** Where tubes may leave a radiator: one that lies flat has no upper and no lower end. A way it has from before stays to be seen. */
export function tubeWays(document: JobDoc, place: { mounts: string[]; tubes?: string }) {
  const face = document.case.mounts?.find((m) => place.mounts.includes(m.id))?.face;
  if (face !== "top" && face !== "bottom") return TUBE_WAYS;
  return TUBE_WAYS.flatMap((way) => {
    if (!UPRIGHT_ONLY.includes(way.value)) return [way];
    return way.value === place.tubes ? [{ ...way, words: `${way.words}, but it lies flat` }] : [];
  });
}

export const CARD_WAYS = [
  { value: "flat", words: "flat" },
  { value: "upright", words: "upright, fans to the window" },
];
export type Change = (label: string, step: (x: LayoutDoc) => void) => void;
