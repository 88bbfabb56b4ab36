import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, type Schemas } from "./client";
import { form } from "./hooks";
import { afterStored } from "./unsaved";

export type CareOut = Schemas["CareOut"];

const key = (job: number) => ["care", job] as const;

export const useCare = (job: number) =>
  useQuery({
    queryKey: key(job),
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/care", { params: { path: { job_id: job } } })),
    retry: false,
  });

function useCareChange<T>(job: number, call: (input: T) => Promise<CareOut>) {
  const queries = useQueryClient();
  return useMutation({ mutationFn: afterStored(job, call), onSuccess: (care) => queries.setQueryData(key(job), care) });
}

export const useCareSettings = (job: number) =>
  useCareChange(job, (said: Schemas["CareSettingsIn"]) =>
    answered(client.POST("/api/jobs/{job_id}/care/settings", { params: { path: { job_id: job } }, body: said })),
  );

export const useNoteCare = (job: number) =>
  useCareChange(job, (said: Schemas["EntryIn"]) =>
    answered(client.POST("/api/jobs/{job_id}/care/entries", { params: { path: { job_id: job } }, body: said })),
  );

export const useStrikeCare = (job: number) =>
  useCareChange(job, (entry: number) =>
    answered(client.POST("/api/jobs/{job_id}/care/entries/{index}/strike", { params: { path: { job_id: job, index: entry } } })),
  );

export function useRecheck(job: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (run: { file: File; roomC: number | null }) =>
      answered(
        client.POST("/api/jobs/{job_id}/care/recheck", {
          params: { path: { job_id: job } },
          body: form({ file: run.file, room_c: run.roomC === null ? null : String(run.roomC) }),
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: key(job) }),
  });
}
