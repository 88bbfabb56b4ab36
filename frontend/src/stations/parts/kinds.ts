import type { FieldSpec } from "@/shared/job/fields";

export type PartKind = {
  name: "cpus" | "cards" | "coolers" | "radiators" | "fans" | "boards" | "memory" | "supplies" | "controllers" | "filters";
  words: string;
  one: string;
  remark: string;
  base?: "cpu" | "card" | "cooler" | "board" | "memory" | "supply";
  fields: FieldSpec[];
};

const PRICE: FieldSpec = { name: "price", words: "Price", low: 0, high: 9999, digits: 2, optional: "not known" };
const mm = (name: string, words: string, low: number, high: number, more: Partial<FieldSpec> = {}): FieldSpec => ({
  name,
  words,
  kind: "length",
  low,
  high,
  ...more,
});
const unknown = { optional: "not known" };
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
      { name: "overclocked", words: "overclocked", as: "tick" },
      PRICE,
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
      mm("width_mm", "Width, board to upper edge", 30, 300, unknown),
      mm("plug_mm", "Its plug and cable's bend", 0, 120, unknown),
      { name: "block_k_per_w", words: "Core to coolant under a block, K/W", low: 0.005, high: 1, optional: "0.06" },
      PRICE,
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
          { value: "free", words: "free in the case" },
        ],
      },
      { name: "coolant_ml", words: "Coolant, ml", low: 20, high: 3000, digits: 0, only: LOOP, fallback: 100 },
      { name: "fill_pct", words: "Filled when new", kind: "share", low: 51, high: 100, only: LOOP, fallback: 97 },
      mm("tube_mm", "Tubes, length", 50, 2500, { only: LOOP, fallback: 400 }),
      {
        name: "tube_material",
        words: "Tubes, material",
        only: LOOP,
        choices: [
          { value: "epdm", words: "EPDM rubber" },
          { value: "fluoropolymer", words: "fluoropolymer lined" },
          { value: "pvc", words: "PVC" },
          { value: "silicone", words: "silicone" },
        ],
      },
      mm("tube_bend_mm", "Smallest bend", 5, 200, { only: LOOP, ...unknown }),
      mm("pump_z_mm", "Pump, over the floor", 0, 1000, { only: ["open_loop"], ...unknown }),
      mm("reservoir_z_mm", "Top of the reservoir", 0, 1500, { only: ["open_loop"], ...unknown }),
      { name: "pump_current_a", words: "Pump, A", low: 0, high: 5, only: LOOP, ...unknown },
      mm("pump_lead_mm", "Pump's lead", 50, 1500, { only: LOOP, ...unknown }),
      mm("memory_clear_mm", "Free over the memory", 5, 200, { only: AIR, ...unknown }),
      mm("pipes_behind_mm", "Heat pipes stand out behind", 0, 60, { only: AIR, optional: "none" }),
      PRICE,
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
      mm("end_tank_mm", "End tank, along it", 0, 80, { fallback: 20 }),
      mm("tank_height_mm", "End tank, thickness", 10, 120, { optional: "as the core" }),
      { name: "revision", words: "Revision", as: "text" },
      PRICE,
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
      {
        name: "connector",
        words: "Plug",
        choices: [
          { value: "4pin", words: "4-pin" },
          { value: "3pin", words: "3-pin" },
          { value: "2pin", words: "2-pin" },
        ],
      },
      mm("lead_mm", "Lead", 20, 1500, unknown),
      {
        name: "made_for",
        words: "Made for",
        choices: [
          { value: "", words: "not said" },
          { value: "airflow", words: "airflow" },
          { value: "pressure", words: "pressure" },
          { value: "mixed", words: "both" },
        ],
      },
      {
        name: "open_side",
        words: "Better-looking side",
        choices: [
          { value: "", words: "either" },
          { value: "inlet", words: "inlet" },
          { value: "outlet", words: "outlet" },
        ],
      },
      { name: "lighting", words: "lit", as: "tick" },
      { name: "limit_rpm", words: "You accept at most", kind: "speed", low: 100, high: 10000, digits: 0, optional: "any" },
      { name: "limit_dba", words: "and at most", kind: "level", low: 0, high: 80, digits: 1, optional: "any" },
      PRICE,
    ],
  },
  {
    name: "boards",
    words: "Board",
    one: "a board",
    remark: "its headers: what each carries and which fans it can slow",
    base: "board",
    fields: [PRICE],
  },
  {
    name: "memory",
    words: "Memory",
    one: "memory",
    remark: "its height, under a cooler",
    base: "memory",
    fields: [mm("height_mm", "Height", 10, 100), PRICE],
  },
  {
    name: "supplies",
    words: "Power supply",
    one: "a power supply",
    remark: "its length, against the case",
    base: "supply",
    fields: [
      { name: "power_w", words: "Power", kind: "power", low: 50, high: 3000 },
      mm("length_mm", "Length", 50, 400),
      mm("height_mm", "Height", 30, 150, { fallback: 86 }),
      PRICE,
    ],
  },
  {
    name: "controllers",
    words: "Splitters and hubs",
    one: "a splitter or hub",
    remark: "a splitter shares its header's current, a powered hub brings its own",
    fields: [
      {
        name: "kind",
        words: "Kind",
        choices: [
          { value: "splitter", words: "splitter" },
          { value: "hub", words: "hub with its own supply" },
          { value: "controller", words: "controller" },
        ],
      },
      { name: "outputs", words: "Outlets", low: 1, high: 20, digits: 0, fallback: 3 },
      { name: "limit_a", words: "Carries, A", low: 0.1, high: 30, optional: "not known" },
      mm("lead_mm", "Adds to the lead", 0, 1000, { fallback: 0 }),
      PRICE,
    ],
  },
  {
    name: "filters",
    words: "Filters",
    one: "a filter",
    remark: "for the list and the price; which panel has one is said in Survey",
    fields: [
      {
        name: "kind",
        words: "Kind",
        choices: [
          { value: "coarse", words: "coarse" },
          { value: "fine", words: "fine" },
        ],
      },
      mm("size_mm", "Size", 40, 300),
      PRICE,
    ],
  },
];
