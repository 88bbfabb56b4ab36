import { useState } from "react";
import { Said } from "@/shared/units/Said";

/** A caution at the step where the hand is: one or two lines, its own shape and word. */
export function Caution({ children, more }: { children: string; more?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <div role="note" className="flex gap-2 rounded-md border border-warning/50 bg-warning/10 px-3 py-2 text-small leading-snug">
      <svg viewBox="0 0 20 20" className="mt-0.5 size-4 shrink-0 text-warning" aria-hidden="true">
        <path d="M10 1.500 19 18H1z" fill="none" stroke="currentColor" strokeWidth="2" strokeLinejoin="round" />
        <path d="M10 7v5M10 14.200v1.300" stroke="currentColor" strokeWidth="2" />
      </svg>
      <div>
        <strong className="text-warning">Caution. </strong>
        <Said text={children} /> The makers' manuals and your local rules come first.
        {more && !open && (
          <button type="button" className="ml-2 cursor-pointer underline" onClick={() => setOpen(true)}>
            more
          </button>
        )}
        {more && open && (
          <p className="mt-1">
            <Said text={more} />
          </p>
        )}
      </div>
    </div>
  );
}
