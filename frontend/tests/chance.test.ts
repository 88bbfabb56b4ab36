import { describe, expect, it } from "vitest";
import { chanceWords } from "../src/shared/words/chance";

describe("a chance", () => {
  it("is never said to be all or none, as in tests/desk/test_chance_words.py", () => {
    expect([0, 0.004, 0.01, 0.5, 0.949, 0.99, 0.9951, 1].map(chanceWords)).toEqual([
      "under 1 %",
      "under 1 %",
      "1 %",
      "50 %",
      "95 %",
      "99 %",
      "over 99 %",
      "over 99 %",
    ]);
  });
});
