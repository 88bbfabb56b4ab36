import { describe, expect, it } from "vitest";
import { blocks } from "../src/stations/evidence/Page";

describe("a study's page", () => {
  it("is headings, tables and lines, whatever stands in it", () => {
    const text = "# Evidence: x\n\nMade by `a`\nin 3 s.\n\n| what | n |\n|---|---|\n| <b>bold</b> | **3 %** |\n\nEnd.\n";
    expect(blocks(text)).toEqual([
      { kind: "head", words: "Evidence: x" },
      { kind: "words", words: "Made by `a` in 3 s." },
      {
        kind: "table",
        rows: [
          ["what", "n"],
          ["<b>bold</b>", "**3 %**"],
        ],
      },
      { kind: "words", words: "End." },
    ]);
    expect(blocks("")).toEqual([]);
  });
});
