import type { Kind } from "@/shared/units/units";

export type FieldSpec = {
  name: string;
  words: string;
  kind?: Kind;
  low?: number;
  high?: number;
  digits?: number;
  optional?: string;
  fallback?: number;
  only?: string[];
  choices?: { value: string; words: string }[];
};

export type PartKind = {
  name: "cpus" | "cards" | "coolers" | "radiators" | "fans";
  words: string;
  one: string;
  remark: string;
  base?: "cpu" | "card" | "cooler";
  fields: FieldSpec[];
};

const AIR = ["tower", "downdraft"];
const LOOP = ["sealed", "open_loop"];

export const KINDS: PartKind[] = [
  {
    name: "cpus",
    words: "Processor",
    one: "a processor",
    remark: "what it draws under your load, and where it stops",
    base: "cpu",
    fields: [
      { name: "power_w", words: "Power under load", kind: "power", low: 1, high: 1000 },
      { name: "r_jc_k_per_w", words: "Core to lid, K/W", low: 0, high: 5 },
      { name: "tj_max_c", words: "Limit", kind: "temperature", low: 40, high: 130, fallback: 100 },
    ],
  },
  {
    name: "cards",
    words: "Graphics card",
    one: "a card",
    remark: "leave out when there is none",
    base: "card",
    fields: [
      { name: "power_w", words: "Power under load", kind: "power", low: 1, high: 1200 },
      {
        name: "shroud",
        words: "Its heat goes",
        choices: [
          { value: "open", words: "into the case (open)" },
          { value: "blower", words: "out of the bracket (blower)" },
        ],
      },
      { name: "length_mm", words: "Length", kind: "length", low: 50, high: 500 },
      { name: "slots", words: "Slots", low: 1, high: 5, digits: 1, fallback: 2.5 },
      { name: "t_limit_c", words: "Limit", kind: "temperature", low: 40, high: 130, fallback: 95 },
      { name: "noise_dba", words: "Loudest, at 1 m", kind: "level", low: 0, high: 70, digits: 1 },
      { name: "fan_flow_max_m3h", words: "Fans, free flow", kind: "flow", low: 5, high: 600 },
      { name: "fan_pressure_max_pa", words: "Fans, most pressure", kind: "pressure", low: 1, high: 400 },
      { name: "fin_drop_pa", words: "Lost in its fins", kind: "pressure", low: 0.5, high: 200 },
      { name: "r_k_per_w", words: "Core to air, K/W", low: 0.01, high: 3 },
    ],
  },
  {
    name: "coolers",
    words: "Processor cooler",
    one: "a cooler",
    remark: "tower, downdraft or sealed",
    base: "cooler",
    fields: [
      { name: "height_mm", words: "Height", kind: "length", low: 15, high: 250, only: AIR, optional: "not known" },
      { name: "fans", words: "Fans on it", low: 1, high: 4, digits: 0, only: AIR, fallback: 1 },
      { name: "flow_ref_m3h", words: "Measured at", kind: "flow", low: 5, high: 300, only: AIR },
      { name: "fin_drop_pa", words: "Lost in its fins", kind: "pressure", low: 0.5, high: 100, only: AIR },
      { name: "ua_ref_w_per_k", words: "Fins to air, W/K", low: 0.5, high: 60, only: AIR },
      { name: "r_base_k_per_w", words: "Lid to fins, K/W", low: 0, high: 2, only: AIR },
      { name: "r_plate_k_per_w", words: "Lid to coolant, K/W", low: 0, high: 2, only: LOOP },
      {
        name: "pump",
        words: "Pump",
        only: LOOP,
        choices: [
          { value: "block", words: "on the processor" },
          { value: "radiator", words: "in the radiator" },
          { value: "tube", words: "in the tube" },
        ],
      },
      { name: "coolant_ml", words: "Coolant, ml", low: 20, high: 3000, digits: 0, only: LOOP, fallback: 100 },
    ],
  },
  {
    name: "radiators",
    words: "Radiators",
    one: "a radiator",
    remark: "for sealed coolers",
    fields: [
      { name: "sections", words: "Sections", low: 1, high: 8, digits: 0 },
      { name: "section_mm", words: "Section", kind: "length", low: 60, high: 240 },
      { name: "thickness_mm", words: "Thickness", kind: "length", low: 10, high: 120, fallback: 27 },
      { name: "length_mm", words: "Length with end tanks", kind: "length", low: 80, high: 700, optional: "auto" },
    ],
  },
  {
    name: "fans",
    words: "Fans on hand",
    one: "a kind of fan",
    remark: "free air, full speed, from the data sheet",
    fields: [
      { name: "size_mm", words: "Size", kind: "length", low: 40, high: 300 },
      { name: "thickness_mm", words: "Thickness", kind: "length", low: 8, high: 60, fallback: 25 },
      { name: "speed_max_rpm", words: "Full speed", kind: "speed", low: 200, high: 10000, digits: 0 },
      { name: "flow_max_m3h", words: "Free flow", kind: "flow", low: 2, high: 600 },
      { name: "pressure_max_pa", words: "Most pressure", kind: "pressure", low: 0.5, high: 600 },
      { name: "noise_dba", words: "Sound at 1 m", kind: "level", low: 0, high: 80, digits: 1 },
      { name: "current_a", words: "Current, A", low: 0, high: 5, optional: "not known" },
      { name: "price", words: "Price", low: 0, high: 1000, digits: 2, optional: "not known" },
    ],
  },
];
