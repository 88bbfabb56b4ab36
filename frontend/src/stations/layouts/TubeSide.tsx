import type { LayoutDoc } from "@/shared/api/client";
import { useSheet } from "@/shared/api/hooks";
import { DocSelect, readAt } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { TUBE_WAYS } from "./choices";

type Props = { layout: LayoutDoc; path: (string | number)[]; mounts: string[] };

/** The end at which a radiator's tubes leave: only those it has where it stands, and what was said before. */
export function TubeSide({ layout, path, mounts }: Props) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const { data } = useSheet({ document, layout: layout.id, conditions });
  const own = data?.loops.flatMap((l) => l.heights.radiators).find((r) => r.mounts.join() === mounts.join());
  const said = String(readAt(document, [...path, "tubes"]) ?? "");
  const ways = TUBE_WAYS.filter((w) => !own || !w.value || w.value === said || own.sides.includes(w.value));
  const choices = ways.map((w) =>
    own && w.value && !own.sides.includes(w.value) ? { ...w, words: `${w.words}: it has no such end` } : w,
  );
  return <DocSelect label="Tubes leave it" path={[...path, "tubes"]} fallback="" choices={choices} />;
}
