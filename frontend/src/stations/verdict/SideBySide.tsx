import { useMemo, useState } from "react";
import { type Beside, useChanges, useJobs, type Verdict } from "@/shared/api/hooks";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { layoutOf } from "@/shared/job/edits";
import { useHeat } from "@/shared/job/heat";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Select } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, unitKind } from "@/shared/words/words";
import { figureOf, leading, SIGN, saidOf, WORDS } from "./words";

const MOST = 4;

type Props = { v: Verdict; beside: Beside[]; onBeside: (beside: Beside[]) => void };

/** Two to four layouts next to each other: drawing, what is done by hand, figures, cost and work. */
export function SideBySide({ v, beside, onBeside }: Props) {
  const { document } = useJob();
  const names = [...new Set(v.figures.map((f) => f.layout))];
  const own = names.filter((n) => layoutOf(document, n));
  const [chosen, setChosen] = useState<string[]>(() =>
    [...new Set([v.reference, v.chosen ?? "", v.best ?? ""])].filter((x) => own.includes(x)),
  );
  const shown = [...chosen.filter((c) => own.includes(c)), ...names.filter((n) => !own.includes(n))].slice(0, MOST);
  const toggle = (name: string) =>
    setChosen(chosen.includes(name) ? chosen.filter((c) => c !== name) : [...chosen, name].slice(-MOST));
  const first = shown[0] ?? "";
  return (
    <>
      <header className="flex flex-wrap items-center gap-3">
        <h1 className="text-figure">Side by side</h1>
        <div className="flex flex-wrap gap-1.5" role="group" aria-label="Layouts to show">
          {own.map((name) => (
            <button
              key={name}
              type="button"
              aria-pressed={chosen.includes(name)}
              onClick={() => toggle(name)}
              className={`wide cursor-pointer rounded-md border px-2.5 text-body ${chosen.includes(name) ? "border-base-content bg-base-content text-base-100" : "border-current/40"}`}
            >
              {name}
            </button>
          ))}
        </div>
        <OtherJob beside={beside} onBeside={onBeside} />
      </header>
      {shown.length < 2 && <p className="text-faint">Choose at least two layouts.</p>}
      <div className="grid gap-4" style={{ gridTemplateColumns: `repeat(${Math.max(shown.length, 1)}, minmax(0, 1fr))` }}>
        {shown.map((name) => (
          <Column key={name} v={v} name={name} against={name === first ? null : first} />
        ))}
      </div>
    </>
  );
}

function Column({ v, name, against }: { v: Verdict; name: string; against: string | null }) {
  const { document } = useJob();
  const bare = useMemo(() => ({ ...document, points: [] }), [document]); // probes are for a map, not for a comparison
  const bench = useWorkbench();
  const units = useUnits();
  const layout = layoutOf(document, name);
  const heat = useHeat();
  const facts = v.layouts.find((x) => x.layout === name);
  return (
    <article className="flex min-w-0 flex-col gap-2" data-column={name}>
      <h2 className="text-lead">
        {name} <span className="text-small font-normal">{layout?.name}</span>
      </h2>
      {layout ? (
        <div className="h-56">
          <Cutaway
            small
            doc={bare}
            layout={layout}
            forecast={bench.rackForecasts.get(name)}
            title={`${name}, ${layout.name ?? ""}`}
          />
        </div>
      ) : (
        <p className="flex h-56 items-center rounded-box border border-dashed hairline p-4 text-body">
          A layout of another job: shown as context only. Unlike things are never ranked.
        </p>
      )}
      {against && layout && <Done before={against} after={name} />}
      {!against && <p className="text-small text-faint">The others are compared with this one.</p>}
      <table className="w-full text-small">
        <tbody>
          {leading(v).map((c) => {
            const own = figureOf(v, name, c);
            const said = against ? saidOf(v.pairs, name, against, c) : null;
            const kind = unitKind(c);
            const unit = kind === "level" ? "dB" : units.unit(kind);
            return (
              <tr key={c} className="border-t hairline align-top">
                <td className="py-1 pr-2 text-faint">{channelWords(c)}</td>
                <td className="py-1 text-right" data-side={`${name} ${c}`}>
                  {said && said.difference !== null && (
                    <span
                      className={`block font-mono text-body font-semibold whitespace-nowrap ${said.pair.at_limit ? "hatched" : ""}`}
                    >
                      {heat.apart(c, said.difference, num(said.band))} {unit}
                    </span>
                  )}
                  {said && (
                    <span className="block text-fine">
                      {said.pair.context ? (
                        "context only"
                      ) : said.pair.at_limit ? (
                        "at its limit: its power tells"
                      ) : (
                        <>
                          <span aria-hidden="true">{SIGN[said.word]}</span> {WORDS[said.word]}
                        </>
                      )}
                    </span>
                  )}
                  <span className="block font-mono text-fine text-faint">
                    {own ? `${heat.banded(c, own.value, own.band).join(" ")} ${heat.unit(c)}` : "not logged"}
                  </span>
                </td>
              </tr>
            );
          })}
          {facts && (
            <>
              <tr className="border-t hairline">
                <td className="py-1 text-faint">cost over {v.reference}</td>
                <td className="py-1 text-right font-mono">{facts.cost.toFixed(0)}</td>
              </tr>
              <tr className="border-t hairline">
                <td className="py-1 text-faint">work from {v.reference}</td>
                <td className="py-1 text-right font-mono">{Math.round(facts.labour_min)} min</td>
              </tr>
            </>
          )}
        </tbody>
      </table>
      {against && <Doubts v={v} name={name} against={against} />}
    </article>
  );
}

function Done({ before, after }: { before: string; after: string }) {
  const { document } = useJob();
  const found = useChanges(document, before, after);
  const lines = found.data?.lines ?? [];
  return (
    <p className="text-small leading-snug" data-done={`${before} ${after}`}>
      <strong>From {before}:</strong> {lines.length ? lines.join(", ") : "nothing differs"}
      {found.data && found.data.minutes > 0 && <span className="text-faint"> ({Math.round(found.data.minutes)} min)</span>}
    </p>
  );
}

function Doubts({ v, name, against }: { v: Verdict; name: string; against: string }) {
  const words = [
    ...new Set(
      v.pairs.filter((p) => (p.a === name && p.b === against) || (p.a === against && p.b === name)).flatMap((p) => p.confounders),
    ),
  ];
  if (!words.length) return null;
  return (
    <ul className="text-fine text-faint" data-confounders={`${name} ${against}`}>
      {words.map((w) => (
        <li key={w}>! {w}</li>
      ))}
    </ul>
  );
}

/** A layout of another job beside this job's own. */
function OtherJob({ beside, onBeside }: { beside: Beside[]; onBeside: (beside: Beside[]) => void }) {
  const { id } = useJob();
  const jobs = useJobs();
  const [job, setJob] = useState("");
  const [layout, setLayout] = useState("A");
  const others = (jobs.data ?? []).filter((j) => j.id !== id && j.runs > 0);
  if (!others.length) return null;
  return (
    <div className="ml-auto flex items-end gap-2 text-small">
      <Select
        label="Beside, from another job"
        value={job}
        empty="none"
        choices={others.map((j) => ({ value: String(j.id), words: j.name }))}
        onChange={(value) => {
          setJob(value);
          if (!value) onBeside([]);
        }}
      />
      {job && (
        <>
          <label className="flex flex-col text-fine text-faint">
            Layout
            <input
              className="input input-sm w-16 text-base-content"
              value={layout}
              onChange={(e) => setLayout(e.target.value.toUpperCase())}
            />
          </label>
          <Button small onClick={() => onBeside([{ job: Number(job), layout }])}>
            {beside.length ? "Change" : "Show"}
          </Button>
        </>
      )}
    </div>
  );
}
