import { afterEach, describe, expect, it, vi } from "vitest";
import { ApiError } from "../src/shared/api/client";
import * as jobs from "../src/shared/api/jobs";
import { stored, waitFor } from "../src/shared/api/unsaved";
import { Saver } from "../src/shared/job/saver";
import { job } from "./documents";

vi.mock("../src/shared/job/drafts", () => ({ dropDraft: () => {}, freshKey: () => "k", keepDraft: () => true }));
vi.hoisted(() => Object.assign(globalThis, { window: globalThis, location: { origin: "http://job" } }));

describe("what the server is asked about", () => {
  afterEach(() => vi.restoreAllMocks());

  const edited = () => {
    const saver = new Saver(7, "tab", 1, { document: job(), changes: 0 }, null, null);
    const away = waitFor(7, saver.stored);
    return { saver, away, change: (n: number) => saver.edited({ ...job(), name: `after ${n}` }, n) };
  };

  it("is stored first, the newest change with it", async () => {
    const sent: string[] = [];
    vi.spyOn(jobs, "storeJob").mockImplementation(async (_id, revision, document) => {
      sent.push(document.name);
      return { revision: revision + 1 } as never;
    });
    const { away, change } = edited();
    await stored(7); // nothing to wait for
    change(1);
    const first = stored(7);
    change(2);
    await Promise.all([first, stored(7)]);
    expect(sent.at(-1)).toBe("after 2");
    away();
    change(3);
    await stored(7); // the screen is left: nobody waits for it
  });

  it("says why where it cannot be stored", async () => {
    vi.spyOn(jobs, "storeJob").mockRejectedValue(
      new ApiError("bad", [{ path: "", what: "a fan stands in two mounts", do: "Move it." }] as never, 422),
    );
    const { saver, change } = edited();
    change(1);
    await expect(saver.stored()).rejects.toThrow("a fan stands in two mounts");
    await expect(saver.stored()).rejects.toThrow("a fan stands in two mounts");
  });

  it("does not wait for a server that does not answer", async () => {
    vi.spyOn(jobs, "storeJob").mockRejectedValue(new TypeError("failed to fetch"));
    const { saver, change } = edited();
    change(1);
    await expect(saver.stored()).rejects.toThrow("does not answer");
  });
});
