import type { Verdict } from "@/shared/api/hooks";
import { Head } from "@/shared/ui/bits";
import { Term } from "@/shared/ui/Term";
import { useUnits } from "@/shared/units/units";
import { chanceWords } from "@/shared/words/chance";
import { ENDS, STEPS } from "@/shared/words/words";

const LEAST = 0.005;
const MOST_ROWS = 5;

/** Chances of being the best under the measurement's uncertainty, and how the choice bears other weights and fewer runs. */
export function HowSure({ v }: { v: Verdict }) {
  const rows = v.placed
    .filter((p) => p.chance >= LEAST)
    .sort((a, b) => Number(b.layout === v.best) - Number(a.layout === v.best) || b.chance - a.chance)
    .slice(0, MOST_ROWS);
  const units = useUnits();
  const own = v.placed.find((p) => p.layout === v.best);
  return (
    <section className="flex flex-col gap-1.5" data-best={v.best ?? ""} data-tied={v.tied.join(" ")}>
      <Head remark="chance of being the best">
        <Term t="sure">How sure</Term>
      </Head>
      {rows.map((p) => (
        <div key={p.layout} className="grid grid-cols-[2rem_1fr_5.5rem] items-center gap-2 text-small" data-chance={p.layout}>
          <span className="wide">{p.layout}</span>
          <span className="h-2.5 border-b border-current/40">
            <span className="block h-full bg-accent/60" style={{ width: `${100 * p.chance}%` }} />
          </span>
          <span className="text-right font-mono">{chanceWords(p.chance)}</span>
        </div>
      ))}
      {own && (
        <p className="text-fine text-faint" data-stability="">
          {v.best} leads under {own.over} of the weights drawn
          {v.repeats && `, and stays in ${v.repeats.stays} of ${v.repeats.of} cases with one run left out`}. Seed {v.seed}.
        </p>
      )}
      {(v.earlier ?? []).length > 0 && (
        <p className="text-fine text-faint" data-earlier={v.earlier?.length}>
          How far builds scatter is taken from your own earlier repeats:{" "}
          {v.earlier?.map((x) => `${x.words}, ${x.count}: ${units.withUnit("difference", x.sigma_k, 1)}`).join("; ")}.
        </p>
      )}
      {v.best === null && <p className="text-small text-error">No layout passes every limit.</p>}
      <details className="text-small">
        <summary className="cursor-pointer text-faint">How each layout scores</summary>
        <ul>
          {v.placed.map((p) => (
            <li key={p.layout} className="border-b hairline py-1" data-burden={p.layout}>
              <strong className="wide">{p.layout}</strong> <span className="font-mono">{p.burden.toFixed(1)}</span>
              {!p.passed && <span className="text-error"> does not pass</span>}
              <span className="block text-faint">{p.why.slice(0, 3).join("; ") || "best in all that matters"}</span>
            </li>
          ))}
        </ul>
        <p className="text-faint">
          Weights times steps behind the best: {STEPS.cpu} K, {STEPS.result} % of a result, {STEPS.noise} dB, {STEPS.cost} in
          cost, {STEPS.labour} minutes, {STEPS.dust} % unfiltered.
          {v.figures.some((f) => f.at_limit) &&
            ` A watt given up at a limit counts as ${units.withUnit("difference", ENDS.watt_worth_k, 1)}.`}
        </p>
      </details>
    </section>
  );
}
