import type { Verdict } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Head } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { Term } from "@/shared/ui/Term";
import { useUnits } from "@/shared/units/units";
import { has, num } from "@/shared/words/lists";
import { RESULTS, said, THINGS, within } from "@/shared/words/words";

const MOST = 5;

/** Limits first, then profiles with who would win under each, then one's own weights. */
export function WhatCounts({
  v,
  profile,
  onProfile,
}: {
  v: Verdict;
  profile: string | null;
  onProfile: (profile: string | null) => void;
}) {
  const { document, edit } = useJob();
  const units = useUnits();
  const chosen = v.placed.find((p) => p.layout === v.chosen);
  return (
    <section className="flex flex-col gap-2">
      <Head remark={profile ? `profile: ${profile}` : "your own weights"}>What counts here</Head>
      {has(chosen?.limits) && (
        <p className="-mt-1 text-fine text-faint">
          <Term t="headroom" /> of {v.chosen}
        </p>
      )}
      <ul className="text-small" aria-label="Limits" data-limits={v.chosen ?? ""}>
        {chosen?.limits.map((l) => {
          const kind = l.kind === "level" ? "level" : "difference";
          const unit = kind === "level" ? "dB" : units.unit(kind);
          return (
            <li
              key={l.what}
              className="flex justify-between gap-2 border-b hairline py-0.5"
              data-limit={l.what}
              data-passed={l.passed}
            >
              <span className={l.passed ? "" : "text-error"}>
                {l.passed ? "✓" : "✕"} {l.what}
                {l.what === chosen.worst && chosen.limits.length > 1 && <span className="text-faint"> (tightest)</span>}
              </span>
              <span className="font-mono whitespace-nowrap" title={l.sure ? "" : "within its own uncertainty"}>
                {units.signed(kind, l.margin, 1)} {unit}
                {!l.sure && " ?"}
              </span>
            </li>
          );
        })}
      </ul>
      <div className="flex flex-wrap gap-1.5" role="group" aria-label="Profiles">
        <Chip
          on={profile === null}
          words="own"
          note={profile === null ? (v.best ?? "none") : ""}
          onClick={() => onProfile(null)}
        />
        {v.profiles.map((p) => (
          <Chip
            key={p.name}
            on={profile === p.name}
            words={p.name}
            note={p.best ? (p.tied.length ? p.tied.join(" ") : p.best) : "none"}
            onClick={() => onProfile(p.name)}
          />
        ))}
      </div>
      <p className="text-fine text-faint">Beside each, the layout it would choose; several letters are a tie.</p>
      <details className="text-small" open={profile === null && v.best === null}>
        <summary className="cursor-pointer" data-weights="">
          {Object.entries(v.weights)
            .filter(([, weight]) => weight > 0)
            .map(([thing, weight]) => `${said(THINGS, thing)} ${weight}`)
            .join(", ") || "nothing is weighed"}
          ; {units.withUnit("difference", v.margin_k, 1)} matter
        </summary>
        <div className="flex flex-col gap-2 pt-2">
          {v.figures.some((f) => (RESULTS as readonly string[]).includes(f.channel)) && (
            <p className="text-fine text-faint">A score, frames or time counts like the part that matters more to you.</p>
          )}
          <div className="grid grid-cols-[5.500rem_1fr_1.500rem] items-center gap-x-2 gap-y-0.5 text-small">
            {Object.entries(THINGS).map(([thing, words]) => {
              const weight = profile
                ? num(v.weights[thing])
                : ((document.priorities as Record<string, number> | undefined)?.[thing] ?? num(v.weights[thing]));
              return (
                <label key={thing} className="contents">
                  <span>{words}</span>
                  <input
                    type="range"
                    min={0}
                    max={MOST}
                    step={1}
                    value={weight}
                    disabled={profile !== null}
                    className="range range-xs w-full"
                    data-weight={thing}
                    onChange={(e) =>
                      edit(`${words} counts ${e.target.value}`, (d) => {
                        d.priorities = {
                          ...v.weights,
                          ...(d.priorities ?? {}),
                          [thing]: Number(e.target.value),
                        } as typeof d.priorities;
                      })
                    }
                  />
                  <span className="text-right font-mono">{weight}</span>
                </label>
              );
            })}
          </div>
          <p className="text-fine text-faint">
            <Term t="margin" />:
          </p>
          <NumberField
            label="A smaller difference does not matter to you"
            kind="difference"
            {...within("practice.margin_k")}
            value={v.margin_k}
            onCommit={(margin) =>
              margin &&
              edit("margin", (d) => {
                d.practice = { ...(d.practice ?? {}), margin_k: margin } as typeof d.practice;
              })
            }
          />
        </div>
      </details>
    </section>
  );
}

function Chip({ on, words, note, onClick }: { on: boolean; words: string; note: string; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      data-profile={words}
      className={`cursor-pointer rounded-full border px-2.5 py-0.5 text-small ${on ? "border-base-content bg-base-content text-base-100" : "border-current/40"}`}
    >
      {words} {note && <strong className="wide">{note}</strong>}
    </button>
  );
}
