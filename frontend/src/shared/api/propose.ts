import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, type JobDoc, type LayoutDoc, type Schemas } from "./client";
import { lean } from "./lean";

/** A layout as the job's document writes it, with what it would bring. */
export type FoundLayout = Omit<Schemas["FoundLayout"], "layout"> & { layout: LayoutDoc };
export type Drawn = Schemas["SearchStart"];
export type SearchDoc = Omit<Schemas["SearchDoc"], "frontier"> & { frontier: FoundLayout[] };
export type Find = Omit<Schemas["FindOut"], "result"> & { result: SearchDoc | null };
export type NextDoc = Schemas["NextDoc"];
export type LearningDoc = Schemas["LearningDoc"];

const LOOK_MS = 400;
export const goingOn = (find: Find | null | undefined) => find?.state === "waiting" || find?.state === "running";

/** The job's latest search; looked at again and again while it goes on, also after a reload. */
export const useFind = (job: number) =>
  useQuery({
    queryKey: ["find", job],
    queryFn: async () =>
      (await answered(client.GET("/api/jobs/{job_id}/find", { params: { path: { job_id: job } } }))) as Find | null,
    refetchInterval: (query) => (goingOn(query.state.data) ? LOOK_MS : false),
    retry: false,
  });

export function useStartFind(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (asked: { document: JobDoc; question: Partial<Schemas["SearchQuestion"]>; learned: boolean }) =>
      (await answered(
        client.POST("/api/jobs/{job_id}/find", {
          params: { path: { job_id: job } },
          body: { ...asked, document: lean(asked.document) as never } as never,
        }),
      )) as unknown as Find,
    onSuccess: (find) => queries.setQueryData(["find", job], find),
  });
}

export function useCancelFind(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (task: number) => answered(client.POST("/api/tasks/{task_id}/cancel", { params: { path: { task_id: task } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["find", job] }),
  });
}

/** Minutes by kind of change as the job's own rebuilds have them. */
export const useOwnMinutes = (job: number, document: JobDoc, ready: boolean) =>
  useQuery({
    queryKey: ["minutes", job, document],
    queryFn: () =>
      answered(
        client.POST("/api/jobs/{job_id}/minutes", {
          params: { path: { job_id: job } },
          body: { document: lean(document) as never },
        }),
      ),
    enabled: ready,
    placeholderData: keepPreviousData,
    retry: false,
  });

/** What the job's runs taught, about the document on the screen. */
export const useLearned = (job: number, document: JobDoc, load: Schemas["LearnedIn"]["load"], ready: boolean) =>
  useQuery({
    queryKey: ["learned", job, document, load],
    queryFn: async () =>
      (await answered(
        client.POST("/api/jobs/{job_id}/learned", {
          params: { path: { job_id: job } },
          body: { document: lean(document) as never, load },
        }),
      )) as LearningDoc,
    enabled: ready,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });

/** Which run is worth most now. */
export const useNext = (job: number, document: JobDoc, ready: boolean, kept: string[] = []) =>
  useQuery({
    queryKey: ["next", job, document, kept],
    queryFn: async () =>
      (await answered(
        client.POST("/api/jobs/{job_id}/next", {
          params: { path: { job_id: job } },
          body: { document: lean(document) as never, kept } as never,
        }),
      )) as NextDoc,
    enabled: ready,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });

/** What is left of the plan as a calendar file, from an hour on. */
export async function planCalendar(document: JobDoc, job: number, begins: Date): Promise<string> {
  const body = { document: lean(document) as never, job, begins: begins.toISOString() };
  return (await answered(client.POST("/api/plan/calendar", { body, parseAs: "text" }))) as unknown as string;
}

/** The plan's runs in every kind of order, with their minutes. */
export const usePlanOrders = (document: JobDoc) =>
  useQuery({
    queryKey: ["orders", document.plan, document.layouts, document.protocols, document.practice],
    queryFn: () => answered(client.POST("/api/plan/orders", { body: { document: lean(document) as never } as never })),
    enabled: (document.plan?.runs ?? []).length > 1,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });
