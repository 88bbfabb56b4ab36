import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { num } from "../words/lists";
import { answered, client, type Schemas } from "./client";
import { form } from "./hooks";

export type Task = Schemas["TaskOut"];
const LOOK_MS = 500;
export const underWay = (task: Task | undefined) => task?.state === "waiting" || task?.state === "running";

/** A piece of long work, looked at again and again until it ends. */
export const useTask = (id: number | null) =>
  useQuery({
    queryKey: ["task", id],
    queryFn: () => answered(client.GET("/api/tasks/{task_id}", { params: { path: { task_id: num(id) } } })),
    enabled: id !== null,
    refetchInterval: (query) => (query.state.data === undefined || underWay(query.state.data) ? LOOK_MS : false),
    retry: false,
  });

/** Files that are being read now, also those that another window handed over. */
export function useImports() {
  const queries = useQueryClient();
  const found = useQuery({
    queryKey: ["imports"],
    queryFn: () => answered(client.GET("/api/tasks")),
    refetchInterval: (query) => (query.state.data?.length ? LOOK_MS : false),
  });
  const count = found.data?.length;
  // One fewer: a job may have come of it.
  useEffect(() => {
    if (count !== undefined) void queries.invalidateQueries({ queryKey: ["jobs"] });
  }, [count, queries]);
  return found.data ?? [];
}

export const beginImport = (file: File) => answered(client.POST("/api/tasks/import", { body: form({ file }) }));
export const callOff = (id: number) =>
  answered(client.POST("/api/tasks/{task_id}/cancel", { params: { path: { task_id: id } } }));
export const makeReport = (verdict: number) =>
  answered(client.POST("/api/verdicts/{verdict_id}/report", { params: { path: { verdict_id: verdict } } }));
