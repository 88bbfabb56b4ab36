import type { Schemas } from "@/shared/api/client";
import { useLearned } from "@/shared/api/propose";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Select, Working } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { FORECAST_LOADS, LESSONS, saidOfChoice } from "@/shared/words/words";

type Learned = Schemas["LearnedLayout"];

const SOUND_FIGURES: Record<Schemas["LearnedSource"]["kind"], (name: string) => string> = {
  source: (name) => (name === "background" ? "level of the room, dB off what was said" : `level of ${name}, dB off its sheet`),
  path: (name) => `way out by ${name}: dB more than expected`,
  law: (name) => `rise of ${name} with speed, dB more per tenfold speed`,
};

function taughtWords(runs: number, sweeps: number): string {
  const said = [
    runs && `${runs} ${runs === 1 ? "run" : "runs"}`,
    sweeps && `${sweeps} ${sweeps === 1 ? "sweep" : "sweeps"} of speeds`,
  ];
  return said.some(Boolean) ? `From ${said.filter(Boolean).join(" and ")}` : "From what the parts bring along";
}

/** What this job's runs taught: how the forecast stands beside them, what contradicts, and what was learned of the case. */
export function LearnedPanel() {
  const { id, document } = useJob();
  const { by, setBy, conditions, layoutId, choose, compared } = useWorkbench();
  const units = useUnits();
  const load = conditions.load === "own" ? null : conditions.load;
  const { data, error } = useLearned(id, document, load, by !== null);
  if (by === null && !compared) return <Working words="The runs are being looked for …" />;
  if (by === null)
    return (
      <p className="text-small">
        Nothing was run in this case yet: the forecast rests on the parts' sheets alone. From the first run on it learns, and says
        so beside every figure.
      </p>
    );
  if (error) return <p role="alert">No answer: {error.message}</p>;
  if (!data) return <Working words="The runs are being held against the forecast …" />;
  const k = (v: number | null | undefined) => (v === null || v === undefined ? "–" : units.text("difference", v, 1));
  return (
    <div className="flex flex-col gap-5 text-small" data-lessons={data.runs_used.length}>
      <Select label="What forecasts rest on" value={by} onChange={(v) => setBy(v as typeof by)} choices={LESSONS} wide />
      <section className="flex flex-col gap-1.5">
        <Head remark={`${saidOfChoice(FORECAST_LOADS, data.load)}, ${units.unit("difference")} over room`}>
          {taughtWords(data.runs_used.length, (data.sweeps ?? []).length)}
        </Head>
        <table className="w-full">
          <thead className="text-left text-fine text-faint">
            <tr>
              <th className="font-normal">layout</th>
              <th className="text-right font-normal">learned</th>
              <th className="text-right font-normal">by sheets</th>
              <th className="text-right font-normal">measured</th>
            </tr>
          </thead>
          <tbody>
            {data.layouts.map((x) => (
              <LayoutRows key={x.id} x={x} on={x.id === layoutId} k={k} onChoose={() => choose(x.id)} />
            ))}
          </tbody>
        </table>
        <p className="text-fine text-faint">
          Above the processor, below the card. Like layouts err alike: near a measured one the forecast becomes sharp, far from
          all it stays wide.
        </p>
      </section>
      <Odd found={data.contradictions} k={k} />
      <OfParts data={data} />
      <details>
        <summary className="cursor-pointer">What was learned of the case</summary>
        <table className="mt-1 w-full text-fine">
          <thead className="text-left text-faint">
            <tr>
              <th className="font-normal">figure of the model</th>
              <th className="text-right font-normal">before</th>
              <th className="text-right font-normal">now</th>
            </tr>
          </thead>
          <tbody>
            {data.parameters.map((p) => (
              <tr key={p.name} className="border-t hairline align-top" data-parameter={p.name}>
                <td className="py-0.5 pr-3">
                  {p.meaning}
                  {p.unit !== "1" && `, ${p.unit}`}
                </td>
                <td className="text-right font-mono whitespace-nowrap">
                  {figure(p.prior)} ±{figure(2 * p.prior_sd)}
                </td>
                <td className="pl-3 text-right font-mono whitespace-nowrap">
                  {figure(p.value)} ±{figure(2 * p.sd)}
                </td>
              </tr>
            ))}
            {data.sources.map((s) => (
              <tr key={`${s.kind} ${s.name}`} className="border-t hairline" data-source={s.name} data-kind={s.kind}>
                <td className="py-0.5 pr-3">{SOUND_FIGURES[s.kind](s.name)}</td>
                <td className="text-right font-mono whitespace-nowrap">0 {units.band("level", 2 * s.prior_sd_db, 1)}</td>
                <td className="pl-3 text-right font-mono whitespace-nowrap">
                  {units.signed("level", s.offset_db, 1)} {units.band("level", 2 * s.sd_db, 1)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-1 text-fine text-faint">
          Beside these the model errs here by {data.model_size.toFixed(1)} times what it states of itself.
        </p>
      </details>
      {data.left_aside.length > 0 && (
        <details>
          <summary className="cursor-pointer">
            {data.left_aside.length} {data.left_aside.length === 1 ? "run" : "runs"} left aside
          </summary>
          <ul className="mt-1 flex flex-col gap-0.5 text-fine">
            {data.left_aside.map((a) => (
              <li key={`${a.run} ${a.why}`}>
                {a.run}: <Said text={a.why} />
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

const figure = (v: number) => (Math.abs(v) >= 100 ? v.toFixed(0) : Math.abs(v) >= 10 ? v.toFixed(1) : v.toFixed(2));

function LayoutRows(props: { x: Learned; on: boolean; k: (v: number | null | undefined) => string; onChoose: () => void }) {
  const { x, k } = props;
  const units = useUnits();
  const rows = [
    { part: "processor", now: x.cpu, sheets: x.unlearned.cpu, read: x.measured?.cpu_rise_k },
    { part: "card", now: x.card, sheets: x.unlearned.card, read: x.measured?.card_rise_k },
  ];
  return rows.map((r, i) =>
    r.now ? (
      <tr key={r.part} className={i ? "" : "border-t hairline"} data-learned-row={`${x.id} ${r.part}`} title={r.part}>
        <td className="py-0.5">
          {i === 0 && (
            <button
              type="button"
              className={`cursor-pointer underline underline-offset-2 ${props.on ? "font-semibold" : ""}`}
              onClick={props.onChoose}
            >
              {x.id}
            </button>
          )}
        </td>
        <td className="text-right font-mono font-semibold whitespace-nowrap">
          {k(r.now.rise_k)} <span className="font-normal text-faint">{units.band("difference", r.now.band_k, 1)}</span>
        </td>
        <td className="text-right font-mono whitespace-nowrap text-faint">
          {k(r.sheets?.rise_k)} {units.band("difference", r.sheets?.band_k, 1)}
        </td>
        <td className="origin-measured text-right font-mono">
          {r.read === null || r.read === undefined ? "not run" : k(r.read)}
        </td>
      </tr>
    ) : null,
  );
}

function Odd({ found, k }: { found: Schemas["LearnedContradiction"][]; k: (v: number) => string }) {
  if (!found.length) return <p>No run contradicts the others.</p>;
  return (
    <section className="flex flex-col gap-1.5" aria-label="Runs that contradict">
      <Head remark="shown, not averaged away">Contradicts the others</Head>
      {found.map((c) => (
        <div key={`${c.run} ${c.channel}`} className="border-l-4 border-warning pl-2" data-odd={c.run}>
          <strong>{c.run}</strong>, {c.channel === "cpu" ? "processor" : "card"}: read {k(c.measured_k)}, the others expect{" "}
          {k(c.forecast_k)} K ({num(c.z).toFixed(1)} sigma)
          {c.alone ? "; its own repeats disagree with it too" : ""}.
          {c.causes.length > 0 ? (
            <span className="block">
              It would fit if {c.causes.map((x) => `${x.words} (${x.explains_pct.toFixed(0)} %)`).join(", or if ")}.
            </span>
          ) : (
            <span className="block">Nothing that was tried explains it: look at the machine, or run it again.</span>
          )}
        </div>
      ))}
    </section>
  );
}

/** What parts bring along from runs of other jobs, and what they could take along from this one's. */
function OfParts({ data }: { data: Schemas["LearningDoc"] }) {
  const { edit } = useJob();
  const keep = data.to_keep ?? [];
  const known = data.parts ?? [];
  if (!keep.length && !known.length) return null;
  const kept = keep.every((x) => x.kept);
  const take = () =>
    edit("lessons kept with the parts", (d) => {
      for (const x of keep) {
        const own = (d.parts as unknown as Record<string, { id: string }[]>)[x.kind]?.find((p) => p.id === x.part);
        if (own) Object.assign(own, { [x.field]: x.lessons });
      }
    });
  return (
    <section className="flex flex-col gap-1.5" data-of-parts={known.length}>
      <Head>Parts that were run elsewhere</Head>
      {known.map((words) => (
        <p key={words}>{words}</p>
      ))}
      {keep.length > 0 && (
        <>
          <p className="text-faint">
            What these runs taught of the parts. A part that keeps it takes it along: into another job where you load the very
            same part, and nowhere else.
          </p>
          {keep.flatMap((x) =>
            x.words.map((words) => (
              <p key={words} data-keep={x.part}>
                {words}
              </p>
            )),
          )}
          <div>
            <Button small disabled={kept} onClick={take}>
              {kept ? "kept with the parts" : "keep with the parts"}
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
