/** What is typed and not taken yet, since no pause came: taken at once when a page is left or something else is done. */
const waiting = new Set<() => void>();
const watchers = new Set<() => void>();
const SETTLES_MS = 60; // until what was taken is known to be unsaved
let settling = 0;

const tell = () => {
  for (const watcher of watchers) watcher();
};

/** Calls ``take`` after a pause, or when it is asked for; the returned function does it now, and once. */
export function afterPause(take: () => void, pauseMs: number): () => void {
  const now = () => {
    clearTimeout(timer);
    if (!waiting.delete(now)) return;
    take();
    settling += 1;
    setTimeout(() => {
      settling -= 1;
      tell();
    }, SETTLES_MS);
  };
  const timer = setTimeout(now, pauseMs);
  waiting.add(now);
  tell();
  return now;
}

/** Takes all that waits. */
export function flushPending() {
  for (const now of [...waiting]) now();
}

/** Lets go of what waits, without taking it. */
export function forget(now: () => void) {
  if (waiting.delete(now)) tell();
}

/** Whether something typed waits to be taken, and hearing of it when that changes. */
export const anyPending = () => waiting.size + settling > 0;
export function watchPending(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => {
    watchers.delete(watcher);
  };
}
