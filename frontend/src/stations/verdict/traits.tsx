import { useRuns, type Verdict } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Traits } from "@/shared/ui/traits";

/** What makes the valid runs of a layout less general. */
export function useTraitsOf(): (layout: string) => string[] {
  const { id } = useJob();
  const runs = useRuns(id);
  return (layout) => [
    ...new Set((runs.data ?? []).filter((r) => r.layout === layout && r.state === "valid").flatMap((r) => r.traits)),
  ];
}

/** Over every face that draws figures without a row for each layout: which of them were made with something unusual. */
export function TraitsLine({ v }: { v: Verdict }) {
  const traitsOf = useTraitsOf();
  const odd = [...new Set(v.figures.map((f) => f.layout))].filter((x) => traitsOf(x).length > 0);
  if (!odd.length) return null;
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-1.5" data-traits-line={odd.join()}>
      {odd.map((x) => (
        <span key={x} className="flex items-center gap-2">
          <strong className="wide">{x}</strong>
          <Traits traits={traitsOf(x)} />
        </span>
      ))}
    </div>
  );
}
