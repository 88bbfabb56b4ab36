import type { FieldSpec } from "@/shared/job/fields";
import { type CAUTIONS, PART_KINDS } from "@/shared/words/words";

export type PartKind = {
  name: (typeof PART_KINDS)[number]["name"];
  words: string;
  one: string;
  remark: string;
  base?: "cpu" | "card" | "cooler" | "board" | "memory" | "supply";
  caution?: keyof typeof CAUTIONS;
  tells?: readonly { field: string; as: string }[];
  fields: readonly FieldSpec[];
};

export const KINDS = PART_KINDS as unknown as readonly PartKind[];
