import { type ReactNode, useId, useState } from "react";
import { createPortal } from "react-dom";

/** Words of the trade as they are meant here, one or two sentences each. */
export const TERMS = {
  rise: [
    "over room",
    "A temperature less the room's at the same moment, in kelvin. Runs of a warm and a cold evening compare by it.",
  ],
  settled: ["settled", "Warm all through: nothing drifts any more. What you would read after an hour or so under the same load."],
  balance: [
    "balance",
    "Air that case fans bring in against air that they take out, by what really flows and not by their sheets.",
  ],
  count: ["by count", "How many fans blow in and how many out, whatever each of them moves."],
  flow: [
    "by flow",
    "Which way more air goes through fans: positive, more in; negative, more out. The rest passes by other openings.",
  ],
  pressure: [
    "case pressure",
    "Mean pressure inside over the room's, in pascals. A few tenths are usual; dust follows the air, not the pascals.",
  ],
  band: [
    "band",
    "The true figure lies within it in 95 of 100 cases, errors of the model included. Forecasts that overlap are not told apart.",
  ],
  intake: [
    "intake, exhaust",
    "Blowing in, blowing out, as seen from inside the case. The open side of a fan draws, the side with the struts blows.",
  ],
  push: [
    "push, pull",
    "A fan before the fins pushes air through them, one behind them pulls. Both do nearly the same; two of them a little more.",
  ],
  knee: ["the last that pays", "Fans after this one bring less than a kelvin to either part. They still make noise."],
  sure: ["how sure", "How often each layout comes out best when every measured figure is drawn anew within its uncertainty."],
  cannot_tell: ["cannot tell", "The runs neither show a difference nor show that there is none. More runs would."],
  same: ["no difference", "The whole 95 % interval lies within what does not matter to you."],
  margin: ["what matters", "A difference smaller than this you would not act on. You set it; verdicts are told against it."],
  control: [
    "control",
    "One layout run first and again at the end. If it reads otherwise the second time, something drifted in between.",
  ],
  protocol: [
    "protocol",
    "How every run is made: load, length, when it ends, over which minutes it is averaged, what is held the same.",
  ],
  window: ["averaging window", "The last minutes of a run, over which its figures are the mean."],
  soak: ["soak", "How far a channel has come from where it began to where it will settle."],
  headroom: ["room to the limit", "Kelvin left between a part and the temperature at which it gives up power."],
} as const;
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
