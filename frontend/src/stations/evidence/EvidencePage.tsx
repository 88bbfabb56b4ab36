import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type Study, useMakeStudy, useStudies } from "@/shared/api/studies";
import { callOff, underWay } from "@/shared/api/tasks";
import { Button, Head, Working } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { Page } from "./Page";

const FIRST_SEED = 1;

/** What stands behind the words: studies with known truth, that anyone can make again with a seed of their own. */
export function EvidencePage() {
  const { data, error } = useStudies();
  return (
    <main className="mx-auto flex max-w-5xl flex-col gap-6 p-6 max-sm:p-3">
      <header className="flex flex-wrap items-baseline justify-between gap-3">
        <div>
          <h1 className="text-figure">Evidence</h1>
          <p className="max-w-2xl text-body">
            Made-up machines whose truth is known, run and judged by the thousand: how often a word is false, whether bands hold.
            Make any of it again here, with a seed of your own; the same seed finds the same.
          </p>
        </div>
        <Link to="/" className="text-small underline underline-offset-2">
          to the list of jobs
        </Link>
      </header>
      {error && <p role="alert">No answer: {error.message}</p>}
      {!data && !error && <Working words="Studies are being looked up …" />}
      {data?.map((s) => (
        <OneStudy key={s.name} study={s} />
      ))}
    </main>
  );
}

function OneStudy({ study }: { study: Study }) {
  const make = useMakeStudy();
  const [count, setCount] = useState(study.usual);
  const [seed, setSeed] = useState(FIRST_SEED);
  const { task, made } = study;
  const going = underWay(task ?? undefined);
  const fault = make.error?.message ?? (task?.state === "failed" && task.fault ? `${task.fault.title}. ${task.fault.do}` : "");
  return (
    <section className="flex flex-col gap-2" data-study={study.name} data-state={task?.state ?? "never"}>
      <Head remark={made ? `${made.count} ${study.counts}, seed ${made.seed}` : "not made here yet"}>
        {study.words.charAt(0).toUpperCase() + study.words.slice(1)}
      </Head>
      <p className="max-w-2xl text-small">{study.about}</p>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label={study.counts}
          digits={0}
          value={count}
          low={study.least}
          high={study.most}
          onCommit={(v) => v !== null && setCount(Math.round(v))}
        />
        <NumberField label="Seed" digits={0} value={seed} low={0} onCommit={(v) => v !== null && setSeed(Math.round(v))} />
        {going && task ? (
          <>
            <progress
              className="progress mb-3 w-48"
              aria-label={`how far ${study.words} is`}
              value={task.total ? task.done : undefined}
              max={task.total || 1}
            />
            <span className="pb-1.5 font-mono text-small">
              {task.total ? `${task.done} of ${task.total}` : task.state === "waiting" ? "waits" : "begins"}
            </span>
            <Button onClick={() => callOff(task.id)}>Call it off</Button>
          </>
        ) : (
          <Button disabled={make.isPending} onClick={() => make.mutate({ name: study.name, count, seed })}>
            {made ? "Make it again" : "Make it here"}
          </Button>
        )}
      </div>
      {fault && (
        <p role="alert" className="text-small text-error">
          {fault}
        </p>
      )}
      {study.published !== "" && !made && (
        <details className="text-small" data-published={study.name}>
          <summary className="cursor-pointer">As it came with Oventa</summary>
          <Page text={study.published} />
        </details>
      )}
      {made && (
        <details className="text-small" data-made={made.missed ? "missed" : "held"}>
          <summary className="cursor-pointer">
            {made.missed ? "Something that is wanted was missed" : "All that is wanted was reached"}, in{" "}
            {made.seconds < 120 ? `${made.seconds.toFixed(0)} s` : `${(made.seconds / 60).toFixed(0)} min`}
            {made.outdated && "; made by another version"}
          </summary>
          <Page text={made.page} />
        </details>
      )}
    </section>
  );
}
