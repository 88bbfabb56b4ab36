/** Words for channels of a run log; the same on every screen. */
const KNOWN: Record<string, string> = {
  cpu_package_c: "processor",
  card_core_c: "card",
  card_hotspot_c: "card hot spot",
  card_memory_c: "card memory",
  board_sensor_c: "board",
  vrm_c: "board supply",
  coolant_c: "coolant",
  room_c: "room",
  cpu_power_w: "processor power",
  card_power_w: "card power",
  cpu_clock_mhz: "processor clock",
  card_clock_mhz: "card clock",
  pump_rpm: "pump speed",
  sound_dba: "sound",
  score: "score",
  fps: "frames per second",
  job_s: "job time",
};

export const channelWords = (name: string) =>
  KNOWN[name] ??
  name
    .replace(/^cpu_core_(\w+)_c$/, "core $1")
    .replace(/^fan_(\w+)_rpm$/, "fan $1")
    .replace(/^air_(\w+)_c$/, "air at $1")
    .replaceAll("_", " ");

/** Channels a column can become when the guess is wrong. */
export const CHANNELS = [
  "cpu_package_c",
  "cpu_core_1_c",
  "cpu_core_2_c",
  "card_core_c",
  "card_hotspot_c",
  "card_memory_c",
  "room_c",
  "coolant_c",
  "board_sensor_c",
  "vrm_c",
  "cpu_power_w",
  "card_power_w",
  "cpu_clock_mhz",
  "card_clock_mhz",
  "pump_rpm",
  "sound_dba",
  "score",
  "fps",
  "job_s",
];

export const unitKind = (channel: string) =>
  channel.endsWith("_c")
    ? ("difference" as const)
    : channel.endsWith("_w")
      ? ("power" as const)
      : channel === "sound_dba"
        ? ("level" as const)
        : ("plain" as const);

export const minutes = (seconds: number) => `${Math.round(seconds / 60)} min`;
