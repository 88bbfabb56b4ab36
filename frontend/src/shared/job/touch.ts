/** Fields whose changes come in many small ones: what is typed or dragged there in one go is one step. */
const GRADUAL = new Set(["text", "search", "number", "range", ""]);

let touches = 0;

/** Called once: a field that gets the focus, or a slider that is taken hold of again, begins a new touch. */
export function watchTouches(target: Document = document): () => void {
  const count = () => {
    touches += 1;
  };
  target.addEventListener("focusin", count, { capture: true });
  target.addEventListener("pointerdown", count, { capture: true });
  return () => {
    target.removeEventListener("focusin", count, { capture: true });
    target.removeEventListener("pointerdown", count, { capture: true });
  };
}

/** The touch that a change belongs to; undefined where the change comes from no field that is typed or dragged in. */
export function touch(active: Element | null = document.activeElement): string | undefined {
  const gradual =
    active?.tagName === "TEXTAREA" || (active?.tagName === "INPUT" && GRADUAL.has((active as HTMLInputElement).type));
  return gradual ? String(touches) : undefined;
}
