import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { has, num } from "@/shared/words/lists";
import { answered, client, done, type JobDoc, type Run, type Schemas } from "./client";
import { type Conditions, questionOf, taughtBy } from "./conditions";
import { lean } from "./lean";
import { afterStored } from "./unsaved";

export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => answered(client.GET("/api/jobs")) });

// What loading does not change: the question itself, and the document that somebody may be changing at this moment.
const KEPT = new Set(["health", "job"]);

/** What a start still loads in the background, in words; when it ends, everything is asked for anew. */
export function useLoading(): string {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ["health"],
    queryFn: () => answered(client.GET("/api/health")),
    refetchInterval: (query) => (query.state.data?.loading ? 2000 : false),
  });
  const words = data?.loading ?? "";
  const was = useRef(words);
  useEffect(() => {
    if (was.current !== words) queries.invalidateQueries({ predicate: (query) => !KEPT.has(String(query.queryKey[0])) });
    was.current = words;
  }, [words, queries]);
  return words;
}

export type JobRow = Schemas["JobRow"];

export const useBin = () => useQuery({ queryKey: ["jobs", "bin"], queryFn: () => answered(client.GET("/api/bin")) });

function useJobsChange(change: (id: number) => Promise<unknown>) {
  const queries = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => queries.invalidateQueries({ queryKey: ["jobs"] }) });
}

/** Into the bin, from where a job comes back for thirty days. */
export const useRemoveJob = () =>
  useJobsChange((id) => done(client.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: id } } })));

export const useRestoreJob = () =>
  useJobsChange((id) => done(client.POST("/api/jobs/{job_id}/restore", { params: { path: { job_id: id } } })));

/** A case drawn from three answers; nothing is stored by it. */
export const useSketch = (answers: Schemas["SketchIn"] | null) =>
  useQuery({
    queryKey: ["sketch", answers],
    queryFn: () => answered(client.POST("/api/sketch", { body: answers as Schemas["SketchIn"] })),
    enabled: answers !== null,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });

/** A length read off the photograph, with how far it may be off. */
export const usePhotoReading = (asked: Schemas["ReadingIn"] | null) =>
  useQuery({
    queryKey: ["photo", asked],
    queryFn: () => answered(client.POST("/api/photo/reading", { body: asked as Schemas["ReadingIn"] })),
    enabled: asked !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What of the case lies beyond its walls. */
export const useOutside = (case_: JobDoc["case"]) => {
  const { photo: _photo, ...bare } = case_;
  return useQuery({
    queryKey: ["outside", identity(case_)],
    queryFn: () => answered(client.POST("/api/outside", { body: { case: bare as never } })),
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });
};

export const useDuplicateJob = () =>
  useJobsChange((id) => answered(client.POST("/api/jobs/{job_id}/duplicate", { params: { path: { job_id: id } } })));

export const useLibrary = () =>
  useQuery({ queryKey: ["library"], queryFn: () => answered(client.GET("/api/library")), staleTime: Number.POSITIVE_INFINITY });

/** The frame with the new forecast is drawn before findings, which cost more, are asked for. */
const FINDINGS_PAUSE_MS = 60;

/** Forecast and findings of the document on the screen, saved or not. The answer before stays until the new one is there. */
export function useForecast(
  document: JobDoc,
  layouts: string[] | null,
  conditions: Conditions,
  against: string | null,
  withFindings: boolean,
  ready = true,
) {
  return useQuery({
    queryKey: [
      "forecast",
      ...[document.case, document.parts, document.base, document.curves, document.room].map(identity),
      ...pick(document, layouts, against).map(identity),
      conditions,
      against,
      withFindings,
    ],
    queryFn: async ({ signal }) => {
      if (withFindings) await new Promise((go) => setTimeout(go, FINDINGS_PAUSE_MS));
      return answered(
        client.POST("/api/forecast", {
          body: {
            document: lean(document) as never,
            question: { layouts, against, ...questionOf(conditions) } as never,
            with_findings: withFindings,
            learned_job: taughtBy(conditions),
          },
          signal,
        }),
      );
    },
    placeholderData: keepPreviousData,
    enabled: ready && has(document.layouts),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });
}

const identities = new WeakMap<object, number>();
let lastIdentity = 0;

/** A number for an object that is never changed in place: as good a key as its text, and at no cost. */
function identity(thing: object | null | undefined): number {
  if (!thing) return 0;
  const known = identities.get(thing);
  if (known) return known;
  lastIdentity += 1;
  identities.set(thing, lastIdentity);
  return lastIdentity;
}

const pick = (document: JobDoc, layouts: string[] | null, against: string | null) =>
  (document.layouts ?? []).filter((x) => !layouts || layouts.includes(x.id) || x.id === against);

export const useRuns = (jobId: number) =>
  useQuery({
    queryKey: ["runs", jobId],
    queryFn: async () =>
      (await answered(client.GET("/api/jobs/{job_id}/runs", { params: { path: { job_id: jobId } } }))) as Run[],
  });

/** A run at screen resolution, or every reading of a short stretch of it. */
/** A run's level over its time; null where none was logged. */
export const useHeard = (runId: number) =>
  useQuery({
    queryKey: ["heard", runId],
    queryFn: () => answered(client.GET("/api/runs/{run_id}/heard", { params: { path: { run_id: runId } } })),
    retry: false,
  });

export const useTrace = (runId: number | null, stretch: [number, number] | null = null, points = 1200) =>
  useQuery({
    queryKey: ["trace", runId, stretch, points],
    queryFn: () =>
      answered(
        client.GET("/api/runs/{run_id}/trace", {
          params: {
            path: { run_id: num(runId) },
            query: { points, ...(stretch ? { from_s: stretch[0], to_s: stretch[1] } : {}) },
          },
        }),
      ),
    enabled: runId !== null,
    placeholderData: keepPreviousData,
  });

export const usePanelCosts = (jobId: number) =>
  useQuery({
    queryKey: ["comparison", jobId, "panel-costs"],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/panel-costs", { params: { path: { job_id: jobId } } })),
  });

export const useComparison = (jobId: number) =>
  useQuery({
    queryKey: ["comparison", jobId],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/comparison", { params: { path: { job_id: jobId } } })),
    placeholderData: keepPreviousData,
  });

/** Records that were frozen, newest first; asked again with each saved change, which may make one stale. */
export const useVerdicts = (jobId: number, document: JobDoc | null = null) =>
  useQuery({
    queryKey: ["verdicts", jobId, document ? identity(document) : 0],
    placeholderData: keepPreviousData,
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/verdicts", { params: { path: { job_id: jobId } } })),
  });

/** Runs that are stored but cannot be read. */
export const useUnreadableRuns = (jobId: number) =>
  useQuery({
    queryKey: ["runs", jobId, "unreadable"],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/runs/unreadable", { params: { path: { job_id: jobId } } })),
  });

export const useRemoveUnreadableRun = (jobId: number) =>
  useBenchChange(jobId, (id: number) => done(client.DELETE("/api/runs/{run_id}", { params: { path: { run_id: id } } })));

/** What a run may be changed in; null for the room goes back to the logged room. */
export type RunChange = Partial<{
  room_c: number | null;
  window_s: number | null;
  state: "valid" | "void" | "superseded";
  void_reason: string;
  held: Record<string, string>;
  traits: string[];
  stood_still: boolean;
  background_dba: number | null;
  made_at: string | null;
  microphone: Schemas["Microphone"];
  name: string;
  layout: string;
}>;

function useBenchChange<I, O>(jobId: number, change: (input: I) => Promise<O>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: afterStored(jobId, change),
    onSuccess: async () => {
      for (const key of ["runs", "comparison", "learned", "next", "trace"])
        await queries.invalidateQueries({ queryKey: key === "trace" ? [key] : [key, jobId] });
    },
  });
}

export const useChangeRun = (jobId: number) =>
  useBenchChange(jobId, (input: { id: number; change: RunChange }) =>
    answered(client.PATCH("/api/runs/{run_id}", { params: { path: { run_id: input.id } }, body: input.change })),
  );

export type RunFile = {
  file: File;
  layout: string;
  mapping: Record<string, string | null>;
  units: Record<string, string>;
  roomC: number | null;
  name: string;
  sure: boolean;
};

export const form = (parts: Record<string, string | File | null>) => {
  const data = new FormData();
  for (const [name, value] of Object.entries(parts)) if (value !== null) data.append(name, value);
  return data as never;
};

export const previewRun = (file: File, mapping: Record<string, string | null>, units: Record<string, string>) =>
  answered(
    client.POST("/api/runs/preview", { body: form({ file, mapping: JSON.stringify(mapping), units: JSON.stringify(units) }) }),
  );

export const useImportRun = (jobId: number) =>
  useBenchChange(jobId, (r: RunFile) =>
    answered(
      client.POST("/api/jobs/{job_id}/runs", {
        params: { path: { job_id: jobId } },
        body: form({
          file: r.file,
          layout: r.layout,
          name: r.name,
          mapping: JSON.stringify(r.mapping),
          units: JSON.stringify(r.units),
          sure: String(r.sure),
          room_c: r.roomC === null ? null : String(r.roomC),
        }),
      }),
    ),
  );

export const useStandInFaults = () =>
  useQuery({
    queryKey: ["faults"],
    queryFn: () => answered(client.GET("/api/standin/faults")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** A made-up run from the stand-in bench. */
export const useSimulateRun = (jobId: number) =>
  useBenchChange(jobId, (body: Schemas["SimulateIn"]) =>
    answered(client.POST("/api/jobs/{job_id}/runs/simulate", { params: { path: { job_id: jobId } }, body })),
  );

export type Verdict = Schemas["VerdictDoc"];
export type VerdictSettings = Partial<Schemas["Settings"]>;
export type Beside = Schemas["Beside"];

/** The whole argument as the runs stand; asked again when the job was saved, since the server judges what is stored. */
export const useVerdict = (jobId: number, document: JobDoc, settings: VerdictSettings, beside: Beside[], saved: boolean) =>
  useQuery({
    queryKey: ["comparison", jobId, "verdict", identity(document), settings, beside],
    queryFn: async ({ signal }) =>
      (await answered(
        client.POST("/api/jobs/{job_id}/verdict", {
          params: { path: { job_id: jobId } },
          body: { settings: settings as never, beside },
          signal,
        }),
      )) as Verdict,
    placeholderData: keepPreviousData,
    enabled: saved,
    retry: false,
  });

export type Freeze = {
  layout: string;
  reason: string;
  signed_by: string;
  settings: VerdictSettings;
  drawings: Record<string, string>;
};

export function useFreeze(jobId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: afterStored(jobId, (input: Freeze) =>
      answered(client.POST("/api/jobs/{job_id}/verdicts", { params: { path: { job_id: jobId } }, body: input as never })),
    ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["verdicts", jobId] }),
  });
}

export const readCase = (file: File) => answered(client.POST("/api/cases/read", { body: form({ file }) }));
export const readParts = (file: File) => answered(client.POST("/api/parts/read", { body: form({ file }) }));
export const addLibraryCase = (file: File) => answered(client.POST("/api/library/cases", { body: form({ file }) }));

export const importJob = (file: File) => answered(client.POST("/api/jobs/import", { body: form({ file }) }));
export const startJob = (name: string, caseKey: string | null) =>
  answered(client.POST("/api/jobs", { body: { name, case_key: caseKey } }));

/** A layout of the document on the screen under the conditions at hand: what every deeper question starts with. */
export type Subject = { document: JobDoc; layout: string; conditions: Conditions };
const about = ({ document, layout, conditions }: Subject) => ({
  document: lean(document) as never,
  question: { layouts: [layout], ...questionOf(conditions) } as never,
});

/** An answer to a deeper question; the answer before stays until the new one is there. */
function useInsight<T>(name: string, subject: Subject, asked: unknown, fetch: () => Promise<T>, ready = true) {
  const { document, layout, conditions } = subject;
  return useQuery({
    queryKey: [name, identity(document), layout, conditions, asked],
    queryFn: fetch,
    placeholderData: keepPreviousData,
    enabled: ready,
    retry: false,
    gcTime: 60_000,
  });
}

/** How a figure of the forecast came about. */
export const useAccount = (subject: Subject, figure: Schemas["AccountIn"]["figure"]) =>
  useInsight("account", subject, figure, () =>
    answered(
      client.POST("/api/forecast/account", { body: { ...about(subject), learned_job: taughtBy(subject.conditions), figure } }),
    ),
  );

/** A run over time. */
export const useOverTime = (subject: Subject, time: Schemas["TimeIn"]["time"]) =>
  useInsight("time", subject, time, () =>
    answered(client.POST("/api/forecast/time", { body: { ...about(subject), learned_job: taughtBy(subject.conditions), time } })),
  );

/** Age of the air and, where a space or a named point is given, smoke let out there. */
export const useAir = (subject: Subject, place: string | null) =>
  useInsight(
    "air",
    subject,
    place,
    () => {
      const named = subject.document.points?.find((p) => `${POINT}${p.id}` === place);
      const where = named ? { space: null, at_mm: named.at_mm } : { space: place };
      return answered(client.POST("/api/forecast/air", { body: { ...about(subject), ...where } }));
    },
    place !== null,
  );
/** Before the name of a point, so that it is none of a space. */
export const POINT = "point:";

/** Which parts of the library fit this case, by what margin, and where they would run. */
export const useShelf = (document: JobDoc, layout: string | undefined) =>
  useQuery({
    queryKey: ["shelf", identity(document), layout],
    queryFn: () => answered(client.POST("/api/shelf", { body: { document: lean(document) as never, layout: layout ?? "" } })),
    enabled: layout !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });

/** What each fan is worth, and single changes. */
export const useWorth = (subject: Subject) =>
  useInsight("worth", subject, null, () =>
    answered(client.POST("/api/forecast/worth", { body: { ...about(subject), learned_job: taughtBy(subject.conditions) } })),
  );

/** Every source of sound with its share of what is heard. */
export const useVoices = (subject: Subject) =>
  useInsight("voices", subject, null, () =>
    answered(client.POST("/api/forecast/voices", { body: { ...about(subject), learned_job: taughtBy(subject.conditions) } })),
  );

/** What more radiator, more fans or other fans are worth in speed. */
export const useTrade = (subject: Subject, part: Schemas["TradeIn"]["part"]) =>
  useInsight("trade", subject, part, () =>
    answered(
      client.POST("/api/forecast/trade", { body: { ...about(subject), learned_job: taughtBy(subject.conditions), part } }),
    ),
  );

/** What fits, with how many millimetres to spare. */
export const useFit = (subject: Subject) =>
  useInsight("fit", subject, null, () => answered(client.POST("/api/fit", { body: about(subject) })));

/** Leads, stock, cost, loops, growth and spare mounts of a layout. */
export const useSheet = (subject: Subject) =>
  useInsight("sheet", subject, null, () => answered(client.POST("/api/sheet", { body: about(subject) })));

/** Layouts by the person's own weights. */
export const useRanking = (document: JobDoc, conditions: Conditions) =>
  useQuery({
    queryKey: ["ranking", identity(document), conditions],
    queryFn: () =>
      answered(
        client.POST("/api/ranking", {
          body: {
            document: lean(document) as never,
            question: questionOf(conditions) as never,
            learned_job: taughtBy(conditions),
          },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Fan curve, system line and where they meet, at one mount. */
export const useFanAtWork = (subject: Subject, mount: string, layer: "outer" | "inner") =>
  useInsight("work", subject, [mount, layer], () =>
    answered(client.POST("/api/forecast/fan", { body: { ...about(subject), mount, layer } })),
  );

/** One layout of each school that this case and these parts allow. */
export const startersFor = (document: JobDoc) =>
  answered(client.POST("/api/starters", { body: { document: lean(document) as never, question: {} as never } }));

/** What a layout was made from, and what was done to it. */
export const useLineage = (subject: Subject, ready: boolean) =>
  useInsight("lineage", subject, null, () => answered(client.POST("/api/lineage", { body: about(subject) })), ready);

/** What is done by hand from one layout to another. */
export const useChanges = (document: JobDoc, before: string, after: string) =>
  useQuery({
    queryKey: ["changes", identity(document), before, after],
    queryFn: () => answered(client.POST("/api/changes", { body: { document: lean(document) as never, before, after } })),
    placeholderData: keepPreviousData,
    enabled: before !== after,
    retry: false,
  });

/** Fan speeds for a level of sound. */
export const useQuietSpeeds = (subject: Subject) =>
  useMutation({
    mutationFn: (quiet: Schemas["QuietIn"]["quiet"]) =>
      answered(
        client.POST("/api/forecast/quiet", { body: { ...about(subject), learned_job: taughtBy(subject.conditions), quiet } }),
      ),
  });

/** Speed curves for a load, each judged by a run over time. */
export const useProposedCurves = (subject: Subject) =>
  useMutation({
    mutationFn: (curves: Schemas["CurvesIn"]["curves"]) =>
      answered(
        client.POST("/api/forecast/curves", { body: { ...about(subject), learned_job: taughtBy(subject.conditions), curves } }),
      ),
  });

/** How the control moved between its first and its last run. */
export const useDrift = (jobId: number) =>
  useQuery({
    queryKey: ["comparison", jobId, "drift"],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/drift", { params: { path: { job_id: jobId } } })),
  });

/** The zones that are usual in a case like this one. */
export const useUsualZones = () =>
  useMutation({
    mutationFn: ({ document, layout }: { document: JobDoc; layout: string }) =>
      answered(client.POST("/api/plan/zones", { body: { document: lean(document) as never, layout } })),
  });

/** How a probe is hung at each named point. */
export const useProbeAdvice = (document: JobDoc, layout: string) =>
  useQuery({
    queryKey: ["probes", document.points, document.zones, document.case, layout],
    queryFn: () => answered(client.POST("/api/plan/probes", { body: { document: lean(document) as never, layout } })),
    enabled: (document.points ?? []).length > 0,
    retry: false,
  });
