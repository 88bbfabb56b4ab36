import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { USUAL } from "@/shared/api/conditions";
import { useForecast } from "@/shared/api/hooks";
import { type Exercise, hintOf, type PracticeMark, useAnswer, useExercise, usePractised } from "@/shared/api/practice";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { Button, Head, Segments, Select, Working } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { PRACTICE_LEVELS, PRACTICE_PLANTED, said } from "@/shared/words/words";
import { DrillPanel } from "./DrillPanel";

const LEVELS = Object.entries(PRACTICE_LEVELS).map(([value, words]) => ({ value, words }));
const PLANTED = Object.entries(PRACTICE_PLANTED).map(([value, words]) => ({ value, words }));
const FIRST_SEED = 1;
const ONLY = ["A"];

/** Machines with planted faults: what is wrong is said, then the findings say what is. */
export function PracticePage() {
  const [what, setWhat] = useState<"machines" | "fans">("machines");
  return (
    <main className="mx-auto flex max-w-6xl flex-col gap-5 p-6 max-sm:p-3">
      <header className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="text-figure">Practice</h1>
        <Link to="/" className="text-small underline underline-offset-2">
          to the list of jobs
        </Link>
      </header>
      <Segments
        label="What is practised"
        value={what}
        onChange={setWhat}
        choices={[
          { value: "machines", words: "what is wrong with it" },
          { value: "fans", words: "which way does it blow" },
        ]}
      />
      {what === "machines" ? <Machines /> : <DrillPanel />}
    </main>
  );
}

function Machines() {
  const [level, setLevel] = useState("1");
  const [seed, setSeed] = useState(FIRST_SEED);
  const { data, error } = useExercise(seed, Number(level));
  const record = usePractised().data ?? [];
  return (
    <section className="flex flex-col gap-4">
      <div className="flex flex-wrap items-end gap-3">
        <Select label="Level" value={level} choices={LEVELS} onChange={setLevel} />
        <Button onClick={() => setSeed(seed + 1)}>Another machine</Button>
        <p className="text-small text-faint">
          Machine {seed}.{" "}
          {record
            .map((r) => `Level ${r.level}: ${r.solved} of ${r.done} solved, ${r.mean_score.toFixed(0)} points on average.`)
            .join(" ")}
        </p>
      </div>
      {error && <p role="alert">No machine: {error.message}</p>}
      {!data && !error && <Working words="A machine is being built, and something is done to it …" />}
      {data && <OneMachine key={`${data.seed} ${data.level}`} exercise={data} />}
    </section>
  );
}

function OneMachine({ exercise }: { exercise: Exercise }) {
  const { document, seed, level } = exercise;
  const layout = document.layouts?.[0];
  const [marks, setMarks] = useState<PracticeMark[]>([]);
  const [kind, setKind] = useState<PracticeMark["kind"]>("reversed");
  const [mount, setMount] = useState("");
  const [hints, setHints] = useState<string[]>([]);
  const answer = useAnswer();
  const forecast = useForecast(document, ONLY, USUAL, null, false);
  const shown = forecast.data?.forecast?.layouts[0];
  const wantsMount = exercise.placed.includes(kind);
  const mounts = (document.case.mounts ?? []).filter((m) => (layout?.fans ?? []).some((f) => f.mount === m.id));
  const say = () => {
    const mark = { kind, mount: wantsMount ? mount || null : null };
    if (!marks.some((m) => m.kind === mark.kind && m.mount === mark.mount)) setMarks([...marks, mark]);
  };
  const hint = async () => {
    const { words } = await hintOf(seed, level, hints.length);
    setHints([...hints, words]);
  };
  const done = answer.data;
  return (
    <div className="grid gap-5 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]" data-exercise={seed} data-faults={exercise.faults}>
      <div className="flex flex-col gap-3">
        <div className="h-[430px] rounded-box border hairline bg-paper p-2 max-sm:h-[300px]">
          {layout && (
            <Cutaway
              doc={document}
              layout={layout}
              forecast={exercise.air_drawn || done ? shown : undefined}
              title="the machine as it was handed in"
              onChoose={setMount}
              chosen={mount || null}
            />
          )}
        </div>
        <div>
          <Head level={3}>What one sees and reads</Head>
          <ul className="mt-1 columns-2 gap-6 text-small max-sm:columns-1">
            {exercise.facts.map((f) => (
              <li key={f}>{f}</li>
            ))}
          </ul>
        </div>
      </div>
      <div className="flex flex-col gap-3">
        <Head remark={`${exercise.faults} to find`}>What is wrong?</Head>
        {!done && (
          <>
            <div className="flex flex-wrap items-end gap-2">
              <Select label="Fault" value={kind} choices={PLANTED} onChange={(v) => setKind(v as PracticeMark["kind"])} />
              {wantsMount && (
                <Select
                  label="Where"
                  value={mount}
                  empty="choose, or touch it"
                  choices={mounts.map((m) => ({ value: m.id, words: m.id.toUpperCase() }))}
                  onChange={setMount}
                />
              )}
              <Button onClick={say} disabled={wantsMount && !mount}>
                Mark it
              </Button>
            </div>
            <ul className="flex flex-col gap-1">
              {marks.map((m) => (
                <li key={`${m.kind}${m.mount}`} className="flex items-baseline gap-2 text-small">
                  {said(PRACTICE_PLANTED, m.kind)}
                  {m.mount && `, ${m.mount.toUpperCase()}`}
                  <button
                    type="button"
                    className="cursor-pointer underline"
                    onClick={() => setMarks(marks.filter((x) => x !== m))}
                  >
                    take back
                  </button>
                </li>
              ))}
            </ul>
            {hints.map((h) => (
              <p key={h} className="border-l-4 border-base-content pl-2 text-small" data-hint>
                {h}
              </p>
            ))}
            <div className="flex gap-2">
              <Button
                strong
                disabled={!marks.length || answer.isPending}
                onClick={() => answer.mutate({ seed, level, marks, hints: hints.length })}
              >
                That is all
              </Button>
              <Button disabled={hints.length >= exercise.hints} onClick={hint}>
                A hint, for a quarter point
              </Button>
            </div>
          </>
        )}
        {done && (
          <div className="flex flex-col gap-3" data-score={done.score}>
            <p className="text-lead font-semibold">
              {done.score.toFixed(0)} of 100. {done.solved ? "All found." : "Not all found."}
            </p>
            {done.marks.filter((m) => !m.right).length > 0 && (
              <p className="text-small">
                Not so:{" "}
                {done.marks
                  .filter((m) => !m.right)
                  .map((m) => `${said(PRACTICE_PLANTED, m.kind)}${m.mount ? `, ${m.mount.toUpperCase()}` : ""}`)
                  .join("; ")}
                .
              </p>
            )}
            {done.explained.map((e) => (
              <article
                key={`${e.kind}${e.what}`}
                className="rounded-box border hairline bg-paper p-2 text-small"
                data-explained={e.kind}
              >
                <p className="font-semibold">
                  {e.found ? "Found" : "Missed"}: <Said text={e.what} />
                </p>
                <p>
                  <Said text={e.because} />
                </p>
                <p className="text-faint">
                  <Said text={e.do} />
                </p>
              </article>
            ))}
          </div>
        )}
        {answer.error && <p role="alert">{answer.error.message}</p>}
      </div>
    </div>
  );
}
