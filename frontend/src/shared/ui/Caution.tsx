import { useState } from "react";

/** A caution at the step where the hand is: one or two lines, its own shape and word. */
export function Caution({ children, more }: { children: string; more?: string }) {
  const [open, setOpen] = useState(false);
  return (
    <div role="note" className="flex gap-2 rounded-md border border-warning/50 bg-warning/10 px-3 py-2 text-[13px] leading-snug">
      <svg viewBox="0 0 20 20" className="mt-0.5 size-4 shrink-0 text-warning" aria-hidden="true">
        <path d="M10 1.500 19 18H1z" fill="none" stroke="currentColor" strokeWidth="2" strokeLinejoin="round" />
        <path d="M10 7v5M10 14.200v1.300" stroke="currentColor" strokeWidth="2" />
      </svg>
      <div>
        <strong className="text-warning">Caution. </strong>
        {children} The makers' manuals and your local rules come first.
        {more && !open && (
          <button type="button" className="ml-2 cursor-pointer underline" onClick={() => setOpen(true)}>
            more
          </button>
        )}
        {more && open && <p className="mt-1">{more}</p>}
      </div>
    </div>
  );
}

export const CAUTIONS = {
  fan: "Shut down, switch off at the wall and unplug before you change a fan or a lead; let the blades stop, hold edges, earth yourself.",
  fanMore:
    "Large or fast blades cut. Hold the rotor still when you blow dust off. Add up the currents on one header and stay within what its manual allows. Check afterwards that no cable touches a blade.",
  coolant:
    "Check for leaks before power and again after the first warm-up; never cut, pull or pinch a tube. On a leak switch off at the wall and do not restart wet.",
  run: "Stay with the machine while it runs at full load, keep vents clear, and stop if a part stays at its limit, you smell heat or a sealed cooler gurgles.",
  runMore:
    "Power loads also heat the supply and the board. With the machine open: nothing dangling, hair and cuffs tied, only fixed, insulated probes near blades. Look for leaks before power and after the first warm-up.",
  panel:
    "Panel off: blades and hot parts are within reach. Power off to take it off; lay glass flat on something soft, with two hands; keep children and pets away; put it back after the run.",
  cooler:
    "Power off and let it cool. Peel the film off the cold plate, tighten in a star pattern, do not bend tubes tighter than their maker says; never cut or pierce a sealed cooler.",
  supply:
    "Shut down, switch off at the wall, unplug, wait, and press the button once to drain it. Never open a power supply; what is inside it or on mains is for a qualified person.",
  lead: "Unplug the machine before you change a lead. Add up starting currents and stay within what the header's manual allows; use a powered hub beyond that, and never join two supplies' +12 V. A 5 V light on a 12 V plug is destroyed.",
  radiator:
    "Fins and sheet metal cut: gloves, and do not squash the fins. Keep to the tubes' smallest bend and never pull a cooler by them. A full tower is lifted by two.",
  openLoop:
    "Glycol mix is harmful if swallowed and makes floors slippery. Fill and test for leaks with the machine unpowered; below 60 °C by design, let it cool before you open it. Liquid metal attacks aluminium.",
  improvised:
    "Card, tape and blocked vents at full load: stay with the machine, set stop limits, keep them off the supply's vents, and put everything back after the run.",
  fog: "Theatrical fluid only, short puffs, room aired; not for asthma; it can set off smoke detectors, its nozzle burns. Power off before fogging heavily.",
  solvent: "Pure alcohol as the paste's maker says; aired, no flame, gloves, power off and all dry again before power.",
  capRaised: "Do not raise a limit for a test. Loads at the limit also stress the board and the supply: stay with the machine.",
  longLoad:
    "Full load for an hour or more: not unattended without a stop limit; nothing that burns near the vents; mind the load on the circuit.",
  chamber:
    "Parts colder than the air draw water: let them warm up before power. Nothing living goes inside; its own manual leads.",
} as const;

/** Cautions that are ticked before a run may start, by the key the protocol names them with. */
export const TICKED: Record<string, { name: string; words: string }> = {
  fog: { name: "fog", words: CAUTIONS.fog },
  solvent: { name: "solvent", words: CAUTIONS.solvent },
  panel_off: { name: "panel off", words: CAUTIONS.panel },
  chamber: { name: "chamber", words: CAUTIONS.chamber },
  cap_raised: { name: "a raised limit", words: CAUTIONS.capRaised },
  blocked_vents: { name: "blocked vents", words: CAUTIONS.improvised },
  long_load: { name: "an hour or more at full load", words: CAUTIONS.longLoad },
};
