import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { num } from "@/shared/words/lists";
import { answered, client, done, type JobDoc, type Schemas } from "./client";
import { lean } from "./lean";
import { afterStored, stored } from "./unsaved";

export type Live = Schemas["LiveOut"];
export type Draft = Schemas["DraftOut"];
export type BenchRow = Schemas["BenchOut"];
export type MarkRow = Schemas["MarkOut"];
export type ProtocolDoc = Schemas["ProtocolDoc"];
export type PlanDoc = Schemas["PlanDoc"];
export type PlannedRun = Schemas["PlannedRunDoc"];

const LOOK_MS = 1000;

const benches = { queryKey: ["benches"], queryFn: () => answered(client.GET("/api/benches")) };

export const useBenches = () => useQuery({ ...benches, refetchInterval: 4000 });

/** The name of a job's live run, empty without one; drawn again only when it changes. */
export const useLiveRunName = (jobId: number) =>
  useQuery({
    ...benches,
    refetchInterval: 10_000,
    select: (rows) => rows.find((b) => b.run_job === jobId)?.run_name ?? "",
  });

/** The state of a bench, about once a second; the last one stays on the screen when the connection is lost. */
export const useLive = (benchId: number | null) =>
  useQuery({
    queryKey: ["live", benchId],
    queryFn: () => answered(client.GET("/api/benches/{bench_id}/live", { params: { path: { bench_id: num(benchId) } } })),
    enabled: benchId !== null,
    refetchInterval: LOOK_MS,
    refetchIntervalInBackground: true,
    placeholderData: (before) => (before?.bench.id === benchId ? before : undefined),
    retry: false,
  });

/** What is drawn of the live run of a bench. */
export const useLiveTrace = (benchId: number, rate: number) =>
  useQuery({
    queryKey: ["live-trace", benchId],
    queryFn: () => answered(client.GET("/api/benches/{bench_id}/live/trace", { params: { path: { bench_id: benchId } } })),
    refetchInterval: rate > 5 ? 1500 : 4000,
    retry: false,
  });

/** How much a bench has stored, and how much of it is older than some hours. */
export const useStoredReadings = (bench: number, older_than_h: number) =>
  useQuery({
    queryKey: ["benches", "stored", bench, older_than_h],
    queryFn: () =>
      answered(
        client.GET("/api/benches/{bench_id}/readings", { params: { path: { bench_id: bench }, query: { older_than_h } } }),
      ),
    refetchInterval: 30_000,
  });

export const useClearReadings = () =>
  useLiveChange((input: { bench: number; older_than_h: number }) =>
    answered(
      client.POST("/api/benches/{bench_id}/readings/clear", {
        params: { path: { bench_id: input.bench } },
        body: { older_than_h: input.older_than_h },
      }),
    ),
  );

/** A change at a bench; what is shown of it is asked for again at once. */
function useLiveChange<I, O>(change: (input: I) => Promise<O>, jobId?: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: afterStored(jobId, change),
    onSuccess: async () => {
      await queries.invalidateQueries({
        predicate: (q) => ["live", "benches", "runs", "comparison", "learned", "next", "marks"].includes(String(q.queryKey[0])),
      });
    },
  });
}

export const useMakeBench = () =>
  useLiveChange((name: string) => answered(client.POST("/api/benches", { body: { name } as never })));

export const useNewToken = () =>
  useLiveChange((id: number) => answered(client.POST("/api/benches/{bench_id}/token", { params: { path: { bench_id: id } } })));

export const useStartStandIn = (jobId: number) =>
  useLiveChange(
    (body: Schemas["StandInIn"]) =>
      answered(client.POST("/api/jobs/{job_id}/standin", { params: { path: { job_id: jobId } }, body })),
    jobId,
  );

export const useStopStandIn = () =>
  useLiveChange((id: number) =>
    answered(client.DELETE("/api/benches/{bench_id}/standin", { params: { path: { bench_id: id } } })),
  );

export const usePaceStandIn = () =>
  useLiveChange((input: { id: number; rate: number; paused: boolean }) =>
    answered(
      client.PATCH("/api/benches/{bench_id}/standin", {
        params: { path: { bench_id: input.id } },
        body: { rate: input.rate, paused: input.paused },
      }),
    ),
  );

export const useAddInstrument = () =>
  useLiveChange((input: { bench: number; body: Schemas["InstrumentIn"] }) =>
    answered(
      client.POST("/api/benches/{bench_id}/instruments", { params: { path: { bench_id: input.bench } }, body: input.body }),
    ),
  );

export const useRemoveInstrument = () =>
  useLiveChange((id: number) =>
    done(client.DELETE("/api/instruments/{instrument_id}", { params: { path: { instrument_id: id } } })),
  );

export const usePrepareRun = (jobId: number) =>
  useLiveChange(
    (body: Schemas["PrepareIn"]) =>
      answered(client.POST("/api/jobs/{job_id}/live", { params: { path: { job_id: jobId } }, body })),
    jobId,
  );

export const useSetUp = () =>
  useLiveChange((input: { run: number; change: Partial<Schemas["SetUpIn"]> }) =>
    answered(client.PATCH("/api/live/{run_id}", { params: { path: { run_id: input.run } }, body: input.change as never })),
  );

export const useStartRun = () =>
  useLiveChange((input: { run: number; waive: boolean }) =>
    answered(client.POST("/api/live/{run_id}/start", { params: { path: { run_id: input.run } }, body: { waive: input.waive } })),
  );

export const useEndRun = () =>
  useLiveChange((run: number) => answered(client.POST("/api/live/{run_id}/end", { params: { path: { run_id: run } } })));

export const useDiscardRun = () =>
  useLiveChange((input: { run: number; reason: string }) =>
    done(client.POST("/api/live/{run_id}/discard", { params: { path: { run_id: input.run } }, body: { reason: input.reason } })),
  );

export const useMarks = (runId: number | null) =>
  useQuery({
    queryKey: ["marks", runId],
    queryFn: () => answered(client.GET("/api/runs/{run_id}/marks", { params: { path: { run_id: num(runId) } } })),
    enabled: runId !== null,
  });

export type NewMark = {
  kind: "event" | "seen" | "heard" | "note";
  tag?: string;
  text?: string;
  until_s?: number;
  at_s?: number;
  drop?: boolean;
  x_mm?: number;
  z_mm?: number;
  picture?: File | null;
};

export const useAddMark = (runId: number) =>
  useLiveChange((mark: NewMark) => {
    const data = new FormData();
    for (const [name, value] of Object.entries(mark)) {
      if (value === undefined || value === null) continue;
      data.append(name, value instanceof File ? value : String(value));
    }
    return answered(client.POST("/api/runs/{run_id}/marks", { params: { path: { run_id: runId } }, body: data as never }));
  });

export const useChangeMark = () =>
  useLiveChange((input: { id: number; change: Partial<Schemas["MarkChange"]> }) =>
    answered(client.PATCH("/api/marks/{mark_id}", { params: { path: { mark_id: input.id } }, body: input.change as never })),
  );

export const useAddReading = (runId: number) =>
  useLiveChange((body: { channel: string; value: number; sure: boolean; point: string }) =>
    answered(client.POST("/api/runs/{run_id}/readings", { params: { path: { run_id: runId } }, body })),
  );

export const useStrikeReading = (runId: number) =>
  useLiveChange((index: number) =>
    done(client.DELETE("/api/runs/{run_id}/readings/{index}", { params: { path: { run_id: runId, index } } })),
  );

export const useRunByHand = (jobId: number) =>
  useLiveChange((body: Schemas["RunByHandIn"]) =>
    answered(client.POST("/api/jobs/{job_id}/runs/by-hand", { params: { path: { job_id: jobId } }, body })),
  );

export const useTemplates = () =>
  useQuery({
    queryKey: ["templates"],
    queryFn: () => answered(client.GET("/api/plan/templates")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What tells a run sheet that runs were made since. */
export const madeOf = (runs: { planned: string; state: string }[]) => runs.map((r) => `${r.planned}${r.state}`).join();

/** The plan as a list of things to do, with minutes. */
export const useRunSheet = (document: JobDoc, job: number, fresh: string) =>
  useQuery({
    queryKey: ["sheet-of-plan", document.plan, document.protocols, document.layouts, fresh],
    queryFn: () => answered(client.POST("/api/plan/sheet", { body: { document: lean(document) as never, job } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** How small a gap one to four runs of each layout can tell in this job. */
export const useReach = (job: number, layouts: number, fresh: string) =>
  useQuery({
    queryKey: ["reach", job, layouts, fresh],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/reach", { params: { path: { job_id: job }, query: { layouts } } })),
    placeholderData: keepPreviousData,
    enabled: layouts > 1,
    retry: false,
  });

export const plannedRuns = (body: Schemas["RunsIn"]) => answered(client.POST("/api/plan/runs", { body }));

export const useGenerate = () =>
  useMutation({
    mutationFn: (body: Omit<Schemas["GenerateIn"], "document"> & { document: JobDoc }) =>
      answered(client.POST("/api/plan/generate", { body: body as never })),
  });

/** A plan that runs by itself on a bench: begun, told that the next layout is built, or taken over by hand. */
export const useBeginSuite = () =>
  useLiveChange(({ bench, job }: { bench: number; job: number }) =>
    stored(job).then(() =>
      answered(client.POST("/api/benches/{bench_id}/suite", { params: { path: { bench_id: bench } }, body: { job } })),
    ),
  );

export const useSuiteBuilt = () =>
  useLiveChange((bench: number) =>
    answered(client.POST("/api/benches/{bench_id}/suite/built", { params: { path: { bench_id: bench } } })),
  );

export const useStopSuite = () =>
  useLiveChange((bench: number) =>
    done(client.DELETE("/api/benches/{bench_id}/suite", { params: { path: { bench_id: bench } } })),
  );
