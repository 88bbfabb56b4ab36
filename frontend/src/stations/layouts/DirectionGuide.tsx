import { type ReactNode, useState } from "react";
import { Caution } from "@/shared/ui/Caution";
import { Dialog } from "@/shared/ui/Dialog";
import { CAUTIONS } from "@/shared/words/words";

/** Four ways to tell which way a fan blows, drawn; opens over the page. */
export function DirectionGuide({ words }: { words: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="cursor-pointer text-small underline" onClick={() => setOpen(true)}>
        {words}
      </button>
      {open && <Guide onClose={() => setOpen(false)} />}
    </>
  );
}

function Guide({ onClose }: { onClose: () => void }) {
  return (
    <Dialog title="Which way does a fan blow?" wide onClose={onClose}>
      <h2 className="mb-1 text-title">Which way does a fan blow?</h2>
      <p className="mb-3 text-small">
        Any one will do; two that agree are certain. Write down what you see, not what you expect.
      </p>
      <div className="grid grid-cols-2 gap-4 max-sm:grid-cols-1">
        <Test
          title="1 Arrows on the frame"
          words="Many frames carry two small arrows on one edge: one for the way the blades turn, one for the way the air goes. The straight one is the air's."
        >
          <rect x="20" y="30" width="120" height="30" rx="3" className="fill-none stroke-current" strokeWidth="2" />
          <path d="M50 52V38m-5 6 5-6 5 6" className="fill-none stroke-accent" strokeWidth="2.5" />
          <path d="M85 45h30m-6-5 6 5-6 5" className="fill-none stroke-current" strokeWidth="2" />
          <Label x={50} y={76} words="air" />
          <Label x={100} y={76} words="turn" />
        </Test>
        <Test
          title="2 The side with the struts"
          words="The motor hangs on struts, and its lead comes out there. Air leaves on that side; the open face, with nothing before the blades, draws in."
        >
          <circle cx="45" cy="45" r="30" className="fill-none stroke-current" strokeWidth="2" />
          <circle cx="45" cy="45" r="9" className="fill-current" />
          <Label x={45} y={92} words="open: in" />
          <circle cx="120" cy="45" r="30" className="fill-none stroke-current" strokeWidth="2" />
          <circle cx="120" cy="45" r="10" className="fill-current" />
          <path d="M120 15V75M94 30l52 30M94 60l52-30" className="stroke-current" strokeWidth="3" />
          <path d="M130 54q22 14 26 32" className="fill-none stroke-copper" strokeWidth="2" />
          <Label x={118} y={92} words="struts, lead: out" />
        </Test>
        <Test
          title="3 A sheet of paper"
          words="With the machine running, hold a loose sheet flat before the opening, from outside. Drawn against the grille: in. Blown away: out. Keep it clear of bare blades."
        >
          <path d="M30 15V85M60 15V85" className="stroke-current" strokeDasharray="3 4" />
          <path d="M26 18q-6 30 0 64" className="fill-none stroke-accent" strokeWidth="3" />
          <path d="M8 50h14m-5-4 5 4-5 4" className="fill-none stroke-current" strokeWidth="2" />
          <Label x={36} y={98} words="clings: in" />
          <path d="M110 15V85" className="stroke-current" strokeDasharray="3 4" />
          <path d="M98 18q-26 28-14 62" className="fill-none stroke-copper" strokeWidth="3" />
          <path d="M104 50H86m5-4-5 4 5 4" className="fill-none stroke-current" strokeWidth="2" />
          <Label x={104} y={98} words="lifts off: out" />
        </Test>
        <Test
          title="4 A little smoke, or a thread"
          words="A thread on a stick, or one short puff of stage fog from outside: it is drawn in or blown off. Short puffs only, never smoke from a flame; a thread needs no fog at all."
        >
          <path d="M100 15V85" className="stroke-current" strokeDasharray="3 4" />
          <path d="M20 50c14-14 24 14 38 0s22 8 40 0" className="fill-none stroke-current" strokeWidth="2" opacity="0.6" />
          <path d="M20 60c14-14 24 14 38 0s22 8 40-4" className="fill-none stroke-current" strokeWidth="2" opacity="0.4" />
          <path d="M108 50h30m-6-5 6 5-6 5" className="fill-none stroke-accent" strokeWidth="2.5" />
          <Label x={80} y={98} words="drawn in" />
        </Test>
      </div>
      <div className="mt-4 flex flex-col gap-2">
        <Caution more="Fog: ventilate, not near people with asthma; it can set off smoke detectors, and its fluid settles on contacts. A thread on a stick does the same.">
          {CAUTIONS.fan}
        </Caution>
        <form method="dialog">
          <button type="submit" className="btn btn-sm btn-primary">
            Close
          </button>
        </form>
      </div>
    </Dialog>
  );
}

function Test({ title, words, children }: { title: string; words: string; children: ReactNode }) {
  return (
    <section className="flex flex-col gap-1.5 rounded-box border hairline bg-paper p-3">
      <h3 className="text-body">{title}</h3>
      <svg viewBox="0 0 165 104" className="mx-auto h-28" role="img" aria-label={title}>
        {children}
      </svg>
      <p className="text-small leading-snug">{words}</p>
    </section>
  );
}

const Label = ({ x, y, words }: { x: number; y: number; words: string }) => (
  <text x={x} y={y} textAnchor="middle" className="fill-current text-tiny">
    {words}
  </text>
);
