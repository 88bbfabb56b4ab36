import { useEffect, useState } from "react";
import { useRuns } from "@/shared/api/hooks";
import { useBenches, useLive } from "@/shared/api/live";
import { NextLine } from "@/shared/job/NextRun";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Segments } from "@/shared/ui/bits";
import { Benches } from "./live/Benches";
import { sound } from "./live/cue";
import { LiveBench } from "./live/LiveBench";
import { StartRun } from "./live/StartRun";
import { SuiteBar } from "./live/SuiteBar";
import { RunsOfLayout } from "./RunsOfLayout";
import { SoundFace } from "./sound/SoundFace";
import { UnreadableRuns } from "./UnreadableRuns";

const STORE = "oventa-bench";

/** Runs: live on a bench, or those that are in. */
export function BenchStation() {
  const { id } = useJob();
  const { layoutId, choose } = useWorkbench();
  const benches = useBenches();
  const runs = useRuns(id);
  const [chosenId, setChosen] = useState<number | null>(() => Number(localStorage.getItem(STORE)) || null);
  const rows = benches.data ?? [];
  // Nobody chose yet: a machine that posts readings is meant rather than one that is silent, and it stays when it falls silent.
  const [awake, setAwake] = useState<number | null>(null);
  const posting = rows.find((b) => !b.silent && b.run === null)?.id ?? null;
  useEffect(() => setAwake((was) => was ?? posting), [posting]);
  const bench =
    rows.find((b) => b.id === chosenId) ??
    rows.find((b) => b.run_job === id) ??
    rows.find((b) => b.id === awake) ??
    rows[0] ??
    null;
  const live = useLive(bench?.id ?? null);
  const draft = live.data?.run ?? null;
  const mine = draft !== null && draft.job === id;
  const [wanted, setWanted] = useState<"live" | "runs" | "sound" | null>(null);
  const face = wanted ?? (mine ? "live" : "runs");
  const [arrived, setArrived] = useState<number | null>(null);
  const pick = (bench: number) => {
    localStorage.setItem(STORE, String(bench));
    setChosen(bench);
  };
  const watched = mine ? draft.id : null;
  const [last, setLast] = useState<{ id: number; layout: string } | null>(null);
  const refetchRuns = runs.refetch;
  // A run that ends by itself, here or at another screen, is shown among the runs of its layout.
  useEffect(() => {
    if (mine) return setLast({ id: draft.id, layout: draft.layout });
    if (last === null || live.data === undefined || live.isPlaceholderData) return;
    setLast(null);
    void refetchRuns().then((found) => {
      const why = found.data?.find((r) => r.id === last.id)?.ended_why;
      if (why) sound(why === "limit" ? "alarm" : "end");
    });
    choose(last.layout);
    setArrived(last.id);
    setWanted("runs");
  }, [mine, draft, last, live.data, live.isPlaceholderData, refetchRuns, choose]);
  return (
    <div className="flex h-full flex-col max-lg:h-auto">
      <div className="no-print flex flex-wrap items-center gap-3 border-b hairline px-4 py-1.5">
        <Segments
          label="Face of the bench"
          value={face}
          choices={[
            { value: "live", words: mine ? `Live: ${draft.name}` : "Live" },
            { value: "runs", words: `Runs of ${layoutId}` },
            { value: "sound", words: `Sound of ${layoutId}` },
          ]}
          onChange={setWanted}
        />
        {rows.length > 1 && (
          <select
            aria-label="Bench"
            className="select select-sm w-auto"
            value={bench?.id ?? ""}
            onChange={(e) => pick(Number(e.target.value))}
          >
            {rows.map((b) => (
              <option key={b.id} value={b.id}>
                {b.name}
                {b.run_name ? `, live: ${b.run_name}` : ""}
              </option>
            ))}
          </select>
        )}
        {bench && (
          <span className="text-small text-faint">
            {bench.silent
              ? "no readings come"
              : `readings come${live.data && live.data.rate > 1 ? `, ${live.data.rate} times as fast as life` : ""}`}
            {bench.made_up ? "; a made-up machine" : ""}
          </span>
        )}
      </div>
      {!mine && (
        <div className="no-print border-b hairline px-4 py-1.5 empty:hidden">
          <NextLine />
        </div>
      )}
      {live.data?.suite?.job === id && <SuiteBar live={live.data} />}
      {face === "live" && mine && live.data ? (
        <LiveBench
          key={watched}
          live={live.data}
          draft={draft}
          lost={live.isError}
          onDone={() => {
            /* the effect above shows it once the bench says that it is over */
          }}
        />
      ) : face === "live" ? (
        <div className="flex flex-col gap-4 overflow-y-auto p-4">
          {draft && !mine && (
            <p className="rounded-md border border-warning p-2 text-body">
              {bench?.name} is busy with {draft.name} of another job. Choose another bench.
            </p>
          )}
          {bench && !draft && <StartRun bench={bench} />}
          <Benches benches={rows} chosen={bench} onChoose={pick} />
        </div>
      ) : face === "sound" ? (
        <SoundFace run={mine && draft.layout === layoutId ? draft.id : null} />
      ) : (
        <>
          <UnreadableRuns />
          <RunsOfLayout key={`${layoutId} ${arrived ?? ""}`} arrived={arrived} onLive={() => setWanted("live")} />
        </>
      )}
    </div>
  );
}
