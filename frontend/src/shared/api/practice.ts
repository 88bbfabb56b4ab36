import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, type JobDoc, type Schemas } from "./client";

export type Exercise = Omit<Schemas["ExerciseOut"], "document"> & { document: JobDoc };
export type PracticeMark = Schemas["Mark"];

export const useExercise = (seed: number, level: number) =>
  useQuery({
    queryKey: ["exercise", seed, level],
    queryFn: async () =>
      (await answered(client.GET("/api/practice/exercise", { params: { query: { seed, level } } }))) as unknown as Exercise,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });

export const hintOf = (seed: number, level: number, n: number) =>
  answered(client.GET("/api/practice/hint", { params: { query: { seed, level, n } } }));

export function useAnswer() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (said: Schemas["AnswerIn"]) => answered(client.POST("/api/practice/answer", { body: said })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["practised"] }),
  });
}

export const usePractised = () =>
  useQuery({ queryKey: ["practised"], queryFn: () => answered(client.GET("/api/practice/record")), retry: false });

export const useDrill = (seed: number) =>
  useQuery({
    queryKey: ["drill", seed],
    queryFn: () => answered(client.GET("/api/practice/drill", { params: { query: { seed } } })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useDrillAnswer = () =>
  useMutation({
    mutationFn: (said: Schemas["DrillAnswerIn"]) => answered(client.POST("/api/practice/drill", { body: said })),
  });
