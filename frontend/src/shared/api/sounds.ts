import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, type Schemas } from "./client";
import { form } from "./hooks";
import { afterStored } from "./unsaved";

export type Clip = Schemas["ClipOut"];
export type Sound = Schemas["SoundDoc"];
export type Procedure = Schemas["ProcedureOut"];
export type Purpose = Procedure["purpose"];
export type SpeedLevel = Schemas["SpeedLevelOut"];
export type Tie = Clip["tie"];

const clipsKey = (job: number) => ["clips", job] as const;
const WAITING_MS = 700;

/** Clips of a job; asked again while one is being listened to. */
export const useClips = (job: number) =>
  useQuery({
    queryKey: clipsKey(job),
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/clips", { params: { path: { job_id: job } } })),
    refetchInterval: (q) => (q.state.data?.some((c) => c.state === "waiting") ? WAITING_MS : false),
    retry: false,
  });

export const useClip = (clip: Clip | undefined) =>
  useQuery({
    queryKey: ["clip", clip?.id, clip?.state, clip?.tie, clip?.tie_level, clip?.share === 1],
    queryFn: () => answered(client.GET("/api/clips/{clip_id}", { params: { path: { clip_id: clip?.id as number } } })),
    enabled: clip !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useSpectra = (job: number, clips: readonly Clip[]) =>
  useQuery({
    queryKey: ["spectra", job, clips.filter((c) => c.state === "done" && !c.struck).map((c) => [c.id, c.tie_level])],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/spectra", { params: { path: { job_id: job } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export type NewClip = {
  file: File;
  layout: string;
  run: number | null;
  kind: Clip["kind"];
  place: Place;
  gainMoves?: boolean;
  tie?: Tie;
  level?: number | null;
  by?: number | null;
  at?: SpeedsSet;
};
export type SpeedsSet = { load: SoundLoad; mounts: string[]; speed_pct: number };
export type Place = { distance_m: number | null; height_m: number | null; side: Schemas["ClipIn"]["side"]; place: string };

function useClipChange<A, R>(job: number, act: (asked: A) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: afterStored(job, act),
    onSettled: () => queries.invalidateQueries({ queryKey: clipsKey(job) }),
  });
}

const said = (value: number | null | undefined) => (value === null || value === undefined ? null : String(value));

export const useAddClip = (job: number) =>
  useClipChange(job, (c: NewClip) =>
    answered(
      client.POST("/api/jobs/{job_id}/clips", {
        params: { path: { job_id: job } },
        body: form({
          file: c.file,
          layout: c.layout,
          run: said(c.run),
          kind: c.kind,
          distance_m: said(c.place.distance_m),
          height_m: said(c.place.height_m),
          side: c.place.side ?? "",
          place: c.place.place,
          gain_moves: String(c.gainMoves ?? false),
          tie: c.tie ?? "none",
          level_db: said(c.level),
          by: said(c.by),
          ...(c.at ? { load: c.at.load, mounts: c.at.mounts.join(), speed_pct: String(c.at.speed_pct) } : {}),
        }),
      }),
    ),
  );

export const useMakeUpClip = (job: number) =>
  useClipChange(job, (body: Partial<Schemas["MadeUpClipIn"]> & { layout: string }) =>
    answered(client.POST("/api/jobs/{job_id}/clips/made-up", { params: { path: { job_id: job } }, body: body as never })),
  );

export const useTieClip = (job: number) =>
  useClipChange(job, ({ id, ...body }: { id: number; tie: Tie; level_db: number | null; by: number | null }) =>
    answered(client.POST("/api/clips/{clip_id}/tie", { params: { path: { clip_id: id } }, body })),
  );

export const useStrikeClip = (job: number) =>
  useClipChange(job, ({ id, why }: { id: number; why: string }) =>
    answered(client.POST("/api/clips/{clip_id}/strike", { params: { path: { clip_id: id } }, body: { why } })),
  );

export type SoundLoad = "idle" | "both";
/** `load`: what the machine does meanwhile; null: as is usual for the purpose. `anew`: as if nothing had been read yet. */
export type Asked = {
  layout: string;
  purpose: Purpose;
  load: SoundLoad | null;
  mounts: string[];
  target_dba: number;
  anew: boolean;
};
const levelsKey = (job: number, asked: Asked) => ["levels", job, asked] as const;

/** How far a sweep or the way to a level is, and what to set next. */
export const useProcedure = (job: number, asked: Asked, revision: unknown) =>
  useQuery({
    queryKey: [...levelsKey(job, asked), revision],
    queryFn: () => answered(client.POST("/api/jobs/{job_id}/levels/next", { params: { path: { job_id: job } }, body: asked })),
    placeholderData: keepPreviousData,
    retry: false,
  });

function useLevelChange<A, R>(job: number, act: (asked: A) => Promise<R>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: act,
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["levels", job] }),
        queries.invalidateQueries({ queryKey: clipsKey(job) }),
      ]),
  });
}

export const useAddLevel = (job: number) =>
  useLevelChange(job, (body: Asked & { speed_pct: number; level_dba: number; clip: number | null }) =>
    answered(client.POST("/api/jobs/{job_id}/levels", { params: { path: { job_id: job } }, body })),
  );

export const useMakeUpLevel = (job: number) =>
  useLevelChange(job, (body: Asked & { speed_pct: number }) =>
    answered(client.POST("/api/jobs/{job_id}/levels/made-up", { params: { path: { job_id: job } }, body: { ...body, seed: 1 } })),
  );

export const useStrikeLevel = (job: number) =>
  useLevelChange(job, (id: number) =>
    answered(client.POST("/api/levels/{reading_id}/strike", { params: { path: { reading_id: id } } })),
  );

/** Layouts as they are forecast to sound. */
export const useForecastSounds = (job: number, revision: unknown) =>
  useQuery({
    queryKey: ["listening", job, revision],
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/listening", { params: { path: { job_id: job } } })),
    retry: false,
  });

/** Levels that were read at chosen speeds, by procedure. */
export const useReadLevels = (job: number) =>
  useQuery({
    queryKey: ["levels", job, "all"] as const,
    queryFn: () => answered(client.GET("/api/jobs/{job_id}/levels", { params: { path: { job_id: job } } })),
    retry: false,
  });

/** The bytes of a sound file of the server, or nothing where it has none. */
export async function wave(url: string): Promise<ArrayBuffer | null> {
  const answer = await fetch(url);
  return answer.ok ? answer.arrayBuffer() : null;
}
