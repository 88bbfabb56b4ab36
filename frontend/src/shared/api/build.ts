import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, type JobDoc, type Schemas } from "./client";
import { type Conditions, questionOf, taughtBy } from "./conditions";
import { form } from "./hooks";
import { lean } from "./lean";

export type Sheet = Schemas["BuildOut"];
export type Step = Schemas["BuildStep"];
export type BuiltFan = Schemas["BuildFan"];
export type Tick = Schemas["TickOut"];

const sheetKey = (w: Which) => ["build", w.job, w.layout, w.start, w.unit] as const;

/** The sheet by which a layout is built, with what is ticked of it. */
export type Which = { job: number; layout: string; start: string | null; unit: string };

export const useBuildSheet = (which: Which, document: JobDoc, conditions: Conditions) =>
  useQuery({
    queryKey: [...sheetKey(which), document, conditions],
    queryFn: async () =>
      (await answered(
        client.POST("/api/jobs/{job_id}/build", {
          params: { path: { job_id: which.job } },
          body: {
            document: lean(document) as never,
            question: { ...questionOf(conditions), layouts: [which.layout] },
            learned_job: taughtBy(conditions),
            layout: which.layout,
            start: which.start,
            unit: which.unit,
          },
        }),
      )) as Sheet,
    enabled: which.layout !== "",
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Sheets of the job that were begun, the latest first. */
export const useBuildState = (job: number) =>
  useQuery({
    queryKey: ["builds", job],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/builds", { params: { path: { job_id: job } } })),
    retry: false,
  });

export function useTick(which: Which) {
  const { job, layout, start, unit } = which;
  const queries = useQueryClient();
  const mutationKey = ["tick", job];
  return useMutation({
    mutationKey,
    scope: { id: `tick ${job}` }, // one after the other, as they were ticked: each waits for those before it
    mutationFn: (said: { step: string; state: Schemas["TickIn"]["state"]; note: string }) =>
      answered(
        client.POST("/api/jobs/{job_id}/build/ticks", {
          params: { path: { job_id: job } },
          body: { ...said, layout, start, unit },
        }),
      ),
    onMutate: (said) => {
      const key = sheetKey(which);
      const before = queries.getQueriesData<Sheet>({ queryKey: key });
      queries.setQueriesData<Sheet>({ queryKey: key }, (was) => was && { ...was, ticks: soon(was, said) });
      return before;
    },
    onError: (_error, _said, before) => {
      for (const [key, was] of before ?? []) queries.setQueryData(key, was);
    },
    onSuccess: (ticks) => {
      if (queries.isMutating({ mutationKey }) > 1) return; // what was ticked since is not in this answer
      queries.setQueriesData<Sheet>({ queryKey: sheetKey(which) }, (was) => (was ? { ...was, ticks } : was));
      return queries.invalidateQueries({ queryKey: ["builds", job] });
    },
  });
}

/** The ticks as they will be: a finger sees at once that it was felt. */
function soon(sheet: Sheet, said: { step: string; state: Schemas["TickIn"]["state"]; note: string }): Tick[] {
  const others = sheet.ticks.filter((t) => t.step !== said.step);
  if (said.state === "open") return others;
  const words = sheet.build.steps.find((s) => s.id === said.step)?.words ?? said.step;
  return [...others, { ...said, state: said.state, words, at: new Date().toISOString(), stands: true }];
}

export const buildFile = (job: number, file: string, layout: string, start: string | null, more: Record<string, string> = {}) =>
  `/api/jobs/${job}/build/${file}?${new URLSearchParams({ layout, ...(start ? { start } : {}), ...more })}`;

export type Unit = Schemas["UnitOut"];
export type Batch = Schemas["BatchOut"];

export const useUnitBatch = (job: number, layout: string) =>
  useQuery({
    queryKey: ["units", job, layout],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/units", { params: { path: { job_id: job }, query: { layout } } })),
    enabled: layout !== "",
    retry: false,
  });

export function useHandIn(job: number, layout: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (unit: { file: File; serial: string; signedBy: string; roomC: number | null }) =>
      answered(
        client.POST("/api/jobs/{job_id}/units", {
          params: { path: { job_id: job } },
          body: form({
            file: unit.file,
            layout,
            serial: unit.serial,
            signed_by: unit.signedBy,
            room_c: unit.roomC === null ? null : String(unit.roomC),
          }),
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["units", job, layout] }),
  });
}

/** A unit that nobody built, with a fault of a kind, for trying. */
export function useMakeUp(job: number, layout: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (cause: Schemas["MadeUpIn"]["cause"]) =>
      answered(client.POST("/api/jobs/{job_id}/units/made-up", { params: { path: { job_id: job } }, body: { layout, cause } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["units", job, layout] }),
  });
}
