import { useCallback, useMemo, useState } from "react";
import type { Run } from "@/shared/api/client";
import { useRuns, useTrace } from "@/shared/api/hooks";
import { Trace } from "@/shared/charts/Trace";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Empty, Head } from "@/shared/ui/bits";
import { CAUTIONS, Caution } from "@/shared/ui/Caution";
import { channelWords, minutes } from "@/shared/ui/channels";
import { useUnits } from "@/shared/units/units";
import { ImportPanel } from "./ImportPanel";
import { RunDetails } from "./RunDetails";
import { RunFigures } from "./RunFigures";

/** Logged runs of the layout at hand: bring one in, see whether it had settled, and its mean over room. */
export function BenchStation() {
  const { id } = useJob();
  const { layoutId } = useWorkbench();
  const runs = useRuns(id);
  const [runId, setRunId] = useState<number | null>(null);
  const [bringing, setBringing] = useState(false);
  const own = (runs.data ?? []).filter((r) => r.layout === layoutId);
  const run = own.find((r) => r.id === runId) ?? own[0];
  return (
    <div className="flex h-full max-lg:h-auto max-lg:flex-col">
      <div className="flex min-w-0 flex-1 flex-col gap-3 overflow-y-auto p-4">
        <header className="flex flex-wrap items-baseline justify-between gap-3">
          <h1 className="text-[19px]">Runs of layout {layoutId}</h1>
          <Button strong onClick={() => setBringing(true)}>
            Start a run or bring in its log
          </Button>
        </header>
        {bringing && (
          <ImportPanel
            layoutId={layoutId}
            onClose={() => setBringing(false)}
            onDone={(made) => {
              setRunId(made);
              setBringing(false);
            }}
          />
        )}
        {runs.data && !own.length && !bringing && (
          <Empty title={`Layout ${layoutId} has not been run`}>
            <p>
              Load the machine, log its temperatures and the room's to a CSV file until nothing climbs any more, and bring the
              file in here.
            </p>
            <Button strong onClick={() => setBringing(true)}>
              Start a run or bring in its log
            </Button>
          </Empty>
        )}
        {own.length > 0 && <RunTabs runs={own} chosen={run?.id ?? null} onChoose={setRunId} />}
        {run && <RunFigures run={run} />}
        {run && <RunTrace run={run} />}
      </div>
      {run && (
        <aside
          className="flex w-[310px] shrink-0 max-lg:w-full max-lg:border-t max-lg:border-l-0 flex-col gap-4 overflow-y-auto border-l border-base-content bg-paper p-4"
          aria-label="The run"
        >
          <RunDetails key={run.id} run={run} />
          <section className="flex flex-col gap-2">
            <Head>At the machine</Head>
            <Caution more={CAUTIONS.runMore}>{CAUTIONS.run}</Caution>
          </section>
        </aside>
      )}
    </div>
  );
}

function RunTabs({ runs, chosen, onChoose }: { runs: Run[]; chosen: number | null; onChoose: (id: number) => void }) {
  return (
    <div className="flex flex-wrap gap-2" role="tablist" aria-label="Runs">
      {runs.map((r) => (
        <button
          key={r.id}
          type="button"
          role="tab"
          aria-selected={r.id === chosen}
          onClick={() => onChoose(r.id)}
          className={`cursor-pointer rounded-box border px-3 py-1 text-left text-[13px] ${r.id === chosen ? "border-base-content bg-base-content text-base-100" : "hairline bg-paper"}`}
        >
          <span className="font-semibold">{r.name}</span>
          <span className="block opacity-80">
            {minutes(r.duration_s)}, {runWord(r)}
          </span>
        </button>
      ))}
    </div>
  );
}

export const runWord = (r: Run) =>
  r.state === "void"
    ? "void"
    : r.analysis.flags.some((f) => f.code === "room_missing")
      ? "not comparable: no room"
      : r.analysis.flags.some((f) => f.code === "room_doubtful")
        ? "room doubtful"
        : r.analysis.settled
          ? "settled"
          : "not settled";

function RunTrace({ run }: { run: Run }) {
  const units = useUnits();
  const trace = useTrace(run.id);
  const channels = useMemo(
    () =>
      (trace.data?.channels ?? [])
        .map((c) => c.name)
        .filter((n) => n.endsWith("_c"))
        .map((name) => ({ name, words: channelWords(name) })),
    [trace.data],
  );
  const window = run.analysis.channels[0]?.window_s as [number, number] | undefined;
  const { shown: convert } = units;
  const shown = useCallback((c: number) => convert("temperature", c), [convert]);
  if (!trace.data) return <p className="text-faint">Drawing the trace …</p>;
  return (
    <div className="h-72 shrink-0 text-[12.5px]">
      <Trace trace={trace.data} channels={channels} window={window ?? null} unit={units.unit("temperature")} shown={shown} />
    </div>
  );
}
