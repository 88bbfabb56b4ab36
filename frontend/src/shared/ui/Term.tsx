import { type ReactNode, useId, useState } from "react";
import { createPortal } from "react-dom";
import { TERMS } from "../words/words";

/** Words of the trade as they are meant here. */
export { TERMS };
export type TermKey = keyof typeof TERMS;

/** A word that explains itself under the pointer, at a touch, or when it has the focus. */
export function Term({ t, children }: { t: TermKey; children?: ReactNode }) {
  const id = useId();
  const [at, setAt] = useState<DOMRect | null>(null);
  const [word, words] = TERMS[t];
  const show = (e: { currentTarget: HTMLElement }) => setAt(e.currentTarget.getBoundingClientRect());
  return (
    <>
      <button
        type="button"
        className="cursor-help underline decoration-dotted decoration-1 underline-offset-4"
        aria-describedby={at ? id : undefined}
        data-term={t}
        onPointerEnter={show}
        onPointerLeave={() => setAt(null)}
        onFocus={show}
        onBlur={() => setAt(null)}
        onClick={show}
        onKeyDown={(e) => e.key === "Escape" && setAt(null)}
      >
        {children ?? word}
      </button>
      {at &&
        createPortal(
          <span
            id={id}
            role="tooltip"
            className="pointer-events-none fixed z-50 w-64 rounded-md border border-base-content bg-paper p-2 text-left text-small leading-snug font-normal text-base-content shadow-lg"
            style={{
              left: Math.max(8, Math.min(at.left, window.innerWidth - 272)),
              ...(at.bottom > window.innerHeight - 130 ? { bottom: window.innerHeight - at.top + 6 } : { top: at.bottom + 6 }),
            }}
          >
            {words}
          </span>,
          document.body,
        )}
    </>
  );
}
