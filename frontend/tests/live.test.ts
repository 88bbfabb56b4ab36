import { describe, expect, it } from "vitest";
import { stillOpen } from "../src/stations/bench/live/words";

const channel = (name: string, settled: boolean | null, minutes_left = 0) => ({ name, settled, minutes_left, more: "" });

describe("what a run still waits for", () => {
  const processor = channel("cpu_package_c", true);
  const hotspot = channel("card_hotspot_c", false, 3);
  const memory = channel("card_memory_c", false, 8);
  const room = channel("room_c", null);

  it("names what has no row of its own, the longest first, once all rows have settled", () => {
    expect(stillOpen([processor, hotspot, memory, room], [processor]).map((c) => c.name)).toEqual([
      "card_memory_c",
      "card_hotspot_c",
    ]);
  });

  it("says nothing while a row still moves, or where nothing is left", () => {
    const card = channel("card_core_c", false, 5);
    expect(stillOpen([processor, card, hotspot], [processor, card])).toEqual([]);
    expect(stillOpen([processor, room], [processor, room])).toEqual([]);
  });
});
