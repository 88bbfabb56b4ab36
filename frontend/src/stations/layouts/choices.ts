import type { LayoutDoc } from "@/shared/api/client";

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
export const TUBE_WAYS = [
  { value: "", words: "at the usual end" },
  { value: "rear", words: "to the rear" },
  { value: "front", words: "to the front" },
  { value: "top", words: "at the top" },
  { value: "bottom", words: "at the bottom" },
];
export const CARD_WAYS = [
  { value: "flat", words: "flat" },
  { value: "upright", words: "upright, fans to the window" },
];
export type Change = (label: string, step: (x: LayoutDoc) => void) => void;
