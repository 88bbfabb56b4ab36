/** What is typed and not taken yet, since no pause came: taken at once when a page is left or something else is done. */
const waiting = new Set<() => void>();

/** Calls ``take`` after a pause, or when it is asked for; the returned function does it now, and once. */
export function afterPause(take: () => void, pauseMs: number): () => void {
  const now = () => {
    clearTimeout(timer);
    if (waiting.delete(now)) take();
  };
  const timer = setTimeout(now, pauseMs);
  waiting.add(now);
  return now;
}

/** Takes all that waits. */
export function flushPending() {
  for (const now of [...waiting]) now();
}

/** Lets go of what waits, without taking it. */
export function forget(now: () => void) {
  waiting.delete(now);
}
