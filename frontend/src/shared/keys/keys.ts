import { useEffect, useRef, useSyncExternalStore } from "react";

/** `place`: letter keys of one place only, such as the bench; else those of the drawing and the rack. */
export type KeyAction = {
  key: string;
  words: string;
  run: () => void;
  letter?: boolean;
  /** A letter key that acts wherever no text is being typed, also on a list or a tick. */
  everywhere?: boolean;
  shown?: string;
  place?: string;
};

const STORE = "oventa-letter-keys";
export const letterKeysOn = () => localStorage.getItem(STORE) !== "off";
export const setLetterKeys = (on: boolean) => localStorage.setItem(STORE, on ? "on" : "off");

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || ["INPUT", "SELECT", "TEXTAREA"].includes(target.tagName));

const NO_TEXT = ["checkbox", "radio", "range", "button", "submit", "reset", "color", "file"];
const typingText = (target: EventTarget | null) =>
  typing(target) &&
  !(target instanceof HTMLSelectElement || (target instanceof HTMLInputElement && NO_TEXT.includes(target.type)));

type Shown = readonly (readonly [string, string])[];
let shown: Shown = [];
const watchers = new Set<() => void>();
const show = (next: Shown) => {
  shown = next;
  for (const tell of watchers) tell();
};

/** Keys of the place that is on the screen at this moment, for the line below it. */
export const usePlaceKeys = () =>
  useSyncExternalStore(
    (tell) => {
      watchers.add(tell);
      return () => watchers.delete(tell);
    },
    () => shown,
  );

/** Whether a letter typed now acts as a key: not while text is being typed, nor when letter keys are off. */
export function useLettersActive(): boolean {
  return useSyncExternalStore(
    (tell) => {
      window.addEventListener("focusin", tell);
      window.addEventListener("focusout", tell);
      window.addEventListener("keyup", tell);
      return () => {
        window.removeEventListener("focusin", tell);
        window.removeEventListener("focusout", tell);
        window.removeEventListener("keyup", tell);
      };
    },
    () => letterKeysOn() && !typingText(window.document.activeElement),
  );
}

/**
 * Keys of the screen. Letter keys act only while the drawing or the rack has the focus (elements marked data-keys)
 * and can be switched off (WCAG 2.1.4); digits and ? act wherever nothing is being typed.
 */
export function useKeys(actions: KeyAction[]) {
  const latest = useRef(actions);
  latest.current = actions;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.altKey || event.ctrlKey || event.metaKey || typingText(event.target)) return;
      const action = latest.current.find((a) => a.key === event.key || a.key.toLowerCase() === event.key.toLowerCase());
      if (!action) return;
      const exact = latest.current.find((a) => a.key === event.key) ?? action;
      if (typing(event.target) && !exact.everywhere) return;
      // Enter and the space bar on a button are the button's own.
      const own = event.key === "Enter" || event.key === " ";
      if (own && event.target instanceof Element && event.target.closest("button, a, summary, label")) return;
      const place = event.target instanceof Element ? event.target.closest("[data-keys]")?.getAttribute("data-keys") : null;
      const inPlace = exact.place ? place === exact.place : place !== null && place !== undefined && place !== "bench";
      if (exact.letter && (!(inPlace || exact.everywhere) || !letterKeysOn())) return;
      event.preventDefault();
      exact.run();
    };
    window.addEventListener("keydown", onKey);
    const own = latest.current.filter((a) => a.place).map((a): [string, string] => [a.shown ?? a.key.toUpperCase(), a.words]);
    if (own.length) show(own);
    return () => {
      window.removeEventListener("keydown", onKey);
      if (own.length) show([]);
    };
  }, []);
}
