import { useCallback, useState } from "react";

/** Words that are being written, kept in the browser until they are handed in: leaving the page or a reload does not lose them. */
export function useKeptText(key: string): [string, (text: string) => void] {
  const store = `oventa-words-${key}`;
  const [text, setText] = useState(() => localStorage.getItem(store) ?? "");
  const set = useCallback(
    (next: string) => {
      setText(next);
      try {
        if (next) localStorage.setItem(store, next);
        else localStorage.removeItem(store);
      } catch {
        // No room in the browser: the words are on the screen still.
      }
    },
    [store],
  );
  return [text, set];
}
