import { useCallback, useMemo, useState } from "react";
import type { Run } from "@/shared/api/client";
import { useHeard, useRuns, useTrace } from "@/shared/api/hooks";
import { useChangeMark, useMarks } from "@/shared/api/live";
import { Trace } from "@/shared/charts/Trace";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Empty, Head } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { Traits } from "@/shared/ui/traits";
import { minutes } from "@/shared/units/convert";
import { useUnits } from "@/shared/units/units";
import { CAUTIONS, channelWords, ENDINGS, said } from "@/shared/words/words";
import { HandForm } from "./HandForm";
import { ImportPanel } from "./ImportPanel";
import { Clipboard } from "./live/Clipboard";
import { MarkList, shadesOf } from "./live/Marks";
import { PanelCost } from "./PanelCost";
import { RunDetails } from "./RunDetails";
import { RunFigures } from "./RunFigures";
import { RunClips } from "./sound/RunSound";

type Bringing = "log" | "hand" | null;

/** Runs of the layout at hand that are in: whether each had settled, its mean over room, and what lowers trust in it. */
export function RunsOfLayout({ arrived, onLive }: { arrived: number | null; onLive: () => void }) {
  const { id } = useJob();
  const { layoutId } = useWorkbench();
  const runs = useRuns(id);
  const [runId, setRunId] = useState<number | null>(arrived);
  const [bringing, setBringing] = useState<Bringing>(null);
  const own = (runs.data ?? []).filter((r) => r.layout === layoutId);
  const run = own.find((r) => r.id === runId) ?? own[0];
  const done = (made: number | null) => {
    if (made !== null) setRunId(made);
    setBringing(null);
  };
  const ways = (
    <>
      <Button strong onClick={onLive}>
        Make a run
      </Button>
      <Button onClick={() => setBringing("log")}>Bring in logs</Button>
      <Button onClick={() => setBringing("hand")}>Type results</Button>
    </>
  );
  return (
    <div className="flex min-h-0 flex-1 max-lg:h-auto max-lg:flex-col">
      <div className="flex min-w-0 flex-1 flex-col gap-3 overflow-y-auto p-4">
        <header className="flex flex-wrap items-center justify-between gap-3">
          <h1 className="text-title">Runs of layout {layoutId}</h1>
          <div className="flex gap-2">{(own.length > 0 || bringing !== null) && ways}</div>
        </header>
        {bringing === "log" && <ImportPanel layoutId={layoutId} onClose={() => setBringing(null)} onDone={done} />}
        {bringing === "hand" && <HandForm layoutId={layoutId} onClose={() => setBringing(null)} onDone={done} />}
        {runs.data && !own.length && bringing === null && (
          <Empty title={`Layout ${layoutId} has not been run`}>
            <p>
              Make a run here, with readings as they come; or bring in logs that you have, with the room's temperature in them; or
              type what a score, a meter or a probe said.
            </p>
            <div className="flex flex-wrap justify-center gap-2">{ways}</div>
          </Empty>
        )}
        {own.length > 0 && <RunTabs runs={own} chosen={run?.id ?? null} onChoose={setRunId} />}
        {run && run.id === arrived && <Arrived run={run} />}
        {run && <RunFigures run={run} />}
        {run && run.rows > 3 && <RunTrace key={run.id} run={run} />}
        {run && <Beside key={`m${run.id}`} run={run} />}
        {run && <PanelCost layoutId={layoutId} />}
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

/** What to do when a live run has just come in. */
function Arrived({ run }: { run: Run }) {
  const stopped = run.ended_why === "limit";
  const alarm = run.alarms.at(-1);
  return (
    <p
      role={stopped ? "alert" : "status"}
      className={`rounded-md border-2 p-2 text-lead ${stopped ? "border-error" : "border-base-content"}`}
      data-arrived={run.ended_why}
    >
      <strong>{run.name} is in: </strong>
      {said(ENDINGS, run.ended_why)}
      {stopped && alarm ? `: ${channelWords(String(alarm.channel))}, ${alarm.words}` : ""}. Take the load off, and write down what
      you saw.
    </p>
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
          className={`cursor-pointer rounded-box border px-3 py-1 text-left text-small ${r.id === chosen ? "border-base-content bg-base-content text-base-100" : "hairline bg-paper"}`}
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
    : r.state === "superseded"
      ? "replaced"
      : r.ended_why === "limit"
        ? "stopped by a limit"
        : r.source_name === "by hand"
          ? "typed"
          : r.analysis.flags.some((f) => f.code === "room_missing")
            ? "not comparable: no room"
            : r.analysis.flags.some((f) => f.code === "room_doubtful")
              ? "room doubtful"
              : r.analysis.settled
                ? "settled"
                : "not settled";

/** Marks of a run that is over, and a clipboard to add what is remembered later. */
function Beside({ run }: { run: Run }) {
  const marks = useMarks(run.id);
  const change = useChangeMark();
  const [open, setOpen] = useState(false);
  const rows = marks.data ?? [];
  return (
    <section className="flex flex-col gap-2" aria-label="Notes and marks">
      <Head
        remark={
          <button type="button" className="cursor-pointer underline" onClick={() => setOpen(!open)}>
            {open ? "close the clipboard" : "open the clipboard"}
          </button>
        }
      >
        Notes and marks
      </Head>
      {rows.length > 0 ? (
        <MarkList marks={rows} onDrop={(id, drop) => change.mutate({ id, change: { drop } })} />
      ) : (
        <p className="text-small text-faint">Nothing was written down.</p>
      )}
      {open && <Clipboard run={{ id: run.id, layout: run.layout, marks: rows, by_hand: run.by_hand }} />}
    </section>
  );
}

const POINTS = 1400;

function RunTrace({ run }: { run: Run }) {
  const units = useUnits();
  const [stretch, setStretch] = useState<[number, number] | null>(null);
  const trace = useTrace(run.id, stretch, POINTS);
  const marks = useMarks(run.id);
  const heard = useHeard(run.id);
  const names = trace.data?.channels.map((c) => c.name).join() ?? "";
  const channels = useMemo(
    () =>
      names
        .split(",")
        .filter((n) => n.endsWith("_c"))
        .map((name) => ({ name, words: channelWords(name) })),
    [names],
  );
  const window = run.analysis.channels[0]?.window_s as [number, number] | undefined;
  const { shown: convert } = units;
  const shown = useCallback((c: number) => convert("temperature", c), [convert]);
  const shades = useMemo(() => shadesOf(marks.data ?? []), [marks.data]);
  if (!trace.data) return <p className="text-faint">Drawing the trace …</p>;
  return (
    <div className="flex shrink-0 flex-col gap-1">
      <Traits traits={run.traits} />
      <div className="h-72 text-fine" data-trace={trace.data.elapsed_s.length}>
        <Trace
          trace={trace.data}
          channels={channels}
          window={window ?? null}
          unit={units.unit("temperature")}
          shown={shown}
          marks={shades}
          onZoom={setStretch}
        />
      </div>
      {heard.data && (
        <p className="text-small" data-heard={heard.data.changes}>
          Level over the run: mean <span className="font-mono">{heard.data.mean_dba.toFixed(1)} dBA</span>,{" "}
          {heard.data.changes
            ? `${heard.data.changes} ${heard.data.changes === 1 ? "change that is" : "changes that are"} heard, the largest ${heard.data.largest_db.toFixed(1)} dB`
            : "no change that is heard"}
          {heard.data.limit_dba != null &&
            `; ${heard.data.over_s ? `${(heard.data.over_s / 60).toFixed(1)} min` : "never"} above the limit of ${heard.data.limit_dba.toFixed(0)} dBA`}
          .
        </p>
      )}
      <RunClips run={run.id} />
      <p className="flex items-center gap-3 text-fine text-faint">
        {stretch ? (
          <>
            {minutes(stretch[0])} to {minutes(stretch[1])}
            <button type="button" className="cursor-pointer underline" onClick={() => setStretch(null)}>
              the whole run
            </button>
          </>
        ) : (
          "Draw over a stretch to see every reading of it."
        )}
        <button
          type="button"
          className="cursor-pointer underline"
          onClick={() => window && setStretch([Math.max(0, window[0] - 60), window[1]])}
        >
          the averaging window
        </button>
      </p>
    </div>
  );
}
