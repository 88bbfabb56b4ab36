import type { LayoutDoc } from "@/shared/api/client";
import { CHOICES } from "@/shared/words/words";

export const TOWER_WAYS = CHOICES["layout.cooler_direction:tower"];
export const DOWNDRAFT_WAYS = CHOICES["layout.cooler_direction:downdraft"];
export const FAN_SIDES = CHOICES["layout.cooler_fan_side"];
export const TUBE_WAYS = [{ value: "", words: "at the usual end" }, ...CHOICES["radiator_place.tubes"]];
export const CARD_WAYS = CHOICES["layout.card_orientation"];
export type Change = (label: string, step: (x: LayoutDoc) => void) => void;
