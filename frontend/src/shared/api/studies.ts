import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, type Schemas } from "./client";
import { underWay } from "./tasks";

export type Study = Schemas["StudyOut"];
const LOOK_MS = 800;

export const useStudies = () =>
  useQuery({
    queryKey: ["studies"],
    queryFn: () => answered(client.GET("/api/studies")),
    refetchInterval: (query) => (query.state.data?.some((s) => underWay(s.task ?? undefined)) ? LOOK_MS : false),
  });

export function useMakeStudy() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["StudyIn"]) => answered(client.POST("/api/studies", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["studies"] }),
  });
}
