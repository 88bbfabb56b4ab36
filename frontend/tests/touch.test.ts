import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { touch, watchTouches } from "../src/shared/job/touch";
import { afterPause, flushPending, forget } from "../src/shared/ui/pending";

const field = (tagName: string, type = "") => ({ tagName, type }) as unknown as Element;

describe("touch", () => {
  it("tells fields that are typed or dragged in from those that are chosen", () => {
    for (const gradual of [field("INPUT", "text"), field("INPUT", "range"), field("TEXTAREA")])
      expect(touch(gradual)).toBeDefined();
    for (const at_once of [field("INPUT", "checkbox"), field("SELECT"), field("BUTTON"), null])
      expect(touch(at_once)).toBeUndefined();
  });

  it("begins anew when a field is entered or a slider taken hold of", () => {
    const target = new EventTarget();
    const stop = watchTouches(target as Document);
    target.dispatchEvent(new Event("focusin"));
    const first = touch(field("TEXTAREA"));
    expect(touch(field("TEXTAREA"))).toBe(first);
    target.dispatchEvent(new Event("focusin"));
    const second = touch(field("TEXTAREA"));
    expect(second).not.toBe(first);
    target.dispatchEvent(new Event("pointerdown"));
    expect(touch(field("INPUT", "range"))).not.toBe(second);
    stop();
    const last = touch(field("TEXTAREA"));
    target.dispatchEvent(new Event("focusin"));
    expect(touch(field("TEXTAREA"))).toBe(last);
  });
});

describe("what is typed and not taken yet", () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it("is taken once, after the pause", () => {
    const take = vi.fn();
    const now = afterPause(take, 400);
    vi.advanceTimersByTime(399);
    expect(take).not.toHaveBeenCalled();
    vi.advanceTimersByTime(1);
    now();
    expect(take).toHaveBeenCalledTimes(1);
  });

  it("is taken at once when the page is left, and not again", () => {
    const [one, two] = [vi.fn(), vi.fn()];
    afterPause(one, 400);
    afterPause(two, 400);
    flushPending();
    vi.advanceTimersByTime(1000);
    expect([one.mock.calls.length, two.mock.calls.length]).toEqual([1, 1]);
  });

  it("is let go of where more is typed", () => {
    const take = vi.fn();
    forget(afterPause(take, 400));
    vi.advanceTimersByTime(1000);
    expect(take).not.toHaveBeenCalled();
  });
});
