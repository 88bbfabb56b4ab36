import { useState } from "react";
import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useProposedCurves } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Segments, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { SHAPES, USUAL, within } from "@/shared/words/words";

type Shape = (typeof SHAPES)[number]["value"];
type Proposed = NonNullable<ReturnType<typeof useProposedCurves>["data"]>["proposals"][number];

/** Speeds that follow a temperature, for a load that comes and goes: each judged by a run over time. */
export function CurvesPanel({ layout }: { layout: LayoutDoc }) {
  const { document, edit } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const [target, setTarget] = useState<number>(document.room?.sound_limit_dba ?? USUAL.quiet_dba);
  const [shape, setShape] = useState<Shape>("burst");
  const [groups, setGroups] = useState<"sides" | "together">("sides");
  const [from, setFrom] = useState<number | null>(null);
  const [to, setTo] = useState<number | null>(null);
  const solve = useProposedCurves({ document, layout: layout.id, conditions });
  const ask = () =>
    solve.mutate({
      target_dba: target,
      groups,
      profile: { shape },
      avoid_rpm: from !== null && to !== null ? [[Math.min(from, to), Math.max(from, to)]] : [],
    });
  const found = solve.data;
  const use = (p: Proposed) =>
    edit(`curves in ${layout.id}: ${p.why.join(", ")}`, (d) => {
      d.curves = [...(d.curves ?? []), ...(p.curves as NonNullable<typeof d.curves>)];
      d.layouts = (d.layouts ?? []).map((x) => (x.id === layout.id ? (p.layout as LayoutDoc) : x));
    });
  return (
    <section className="flex flex-col gap-3" data-curves={found ? found.proposals.length : "waiting"}>
      <Head remark={found?.learned ? "forecast over time, as learned" : "forecast over time"}>A curve for a load</Head>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="Never louder than"
          kind="level"
          digits={1}
          value={target}
          {...within("ask.quiet_dba")}
          onCommit={(v) => setTarget(v ?? USUAL.quiet_dba)}
        />
        <Select label="Load over time" value={shape} choices={SHAPES} onChange={(v) => setShape(v as Shape)} />
        <Segments
          label="Which fans share a curve"
          value={groups}
          onChange={setGroups}
          choices={[
            { value: "sides", words: "one for each side" },
            { value: "together", words: "one for all" },
          ]}
        />
      </div>
      <fieldset className="flex flex-wrap gap-3">
        <legend className="text-fine text-faint">Leap over speeds that hum</legend>
        <NumberField label="from" kind="speed" value={from} {...within("ask.rpm")} optional="none" onCommit={setFrom} />
        <NumberField label="to" kind="speed" value={to} {...within("ask.rpm")} optional="none" onCommit={setTo} />
      </fieldset>
      <div>
        <Button strong onClick={ask} disabled={solve.isPending || !layout.fans?.length}>
          {solve.isPending ? "Running them …" : "Find curves"}
        </Button>
      </div>
      {solve.error && <p role="alert">No answer: {solve.error.message}</p>}
      {found && !found.reached && (
        <p className="text-small text-warning">
          {units.withUnit("level", target)} cannot be kept even with the case fans at rest.
        </p>
      )}
      {found?.reached && (
        <table className="w-full text-small">
          <thead className="text-left text-fine text-faint">
            <tr>
              <th className="font-normal">{found.tried} tried</th>
              <th className="text-right font-normal">mean, dBA</th>
              <th className="pl-2 text-right font-normal">heard to change</th>
              <th className="pl-2 text-right font-normal">processor, card at most, {units.unit("temperature")}</th>
            </tr>
          </thead>
          <tbody>
            <JudgedRow words={`${layout.id} as it is`} j={found.now} />
            <JudgedRow words="one speed all the time" j={found.fixed} />
            {found.proposals.map((p) => (
              <JudgedRow key={p.why.join()} words={p.why.join(", ")} j={p.judged} strong />
            ))}
          </tbody>
        </table>
      )}
      {found?.reached && found.proposals.length === 0 && (
        <p className="text-small">No fan is left a speed to turn at: make the band that is to be leapt over narrower.</p>
      )}
      {found?.proposals.map((p) => (
        <article key={p.why.join()} className="rounded-box border hairline bg-paper p-2 text-small" data-curve={p.why.join(", ")}>
          <p className="font-semibold">{p.why.join(", ")}</p>
          <ul>
            {p.words.map((w) => (
              <li key={w} className="font-mono text-fine leading-snug">
                {w}
              </li>
            ))}
          </ul>
          {p.releases.length > 0 && <p className="text-fine text-faint">With it {p.releases.join(", ")}.</p>}
          <div className="mt-1 flex justify-end">
            <Button small onClick={() => use(p)}>
              Set these curves in {layout.id}
            </Button>
          </div>
        </article>
      ))}
    </section>
  );
}

function JudgedRow({ words, j, strong }: { words: string; j: Schemas["Judged"]; strong?: boolean }) {
  const units = useUnits();
  return (
    <tr className={`border-t hairline align-top ${strong ? "font-semibold" : ""}`} data-judged={words}>
      <td className="py-0.5">
        {words}
        {j.minutes_at_limit > 0 && (
          <span className="block text-fine font-normal text-error">{j.minutes_at_limit.toFixed(0)} min at a limit</span>
        )}
        {j.sound.over_s > 0 && (
          <span className="block text-fine font-normal text-error">{(j.sound.over_s / 60).toFixed(0)} min too loud</span>
        )}
      </td>
      <td className="text-right font-mono">{units.text("level", j.sound.mean_dba, 1)}</td>
      <td className="pl-2 text-right font-mono whitespace-nowrap">
        {j.sound.changes === 0 ? "never" : `${j.sound.changes} ×, ${units.text("level", j.sound.largest_db, 0)} dB`}
      </td>
      <td className="pl-2 text-right font-mono whitespace-nowrap">
        {units.text("temperature", j.cpu_c, 0)}
        {j.card_c !== null && `, ${units.text("temperature", j.card_c, 0)}`}
      </td>
    </tr>
  );
}
