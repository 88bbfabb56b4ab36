import { useReach } from "@/shared/api/live";
import { useJob } from "@/shared/job/store";
import { useUnits } from "@/shared/units/units";
import { usual } from "@/shared/words/words";

/** What the planned number of runs can tell, before an evening is spent on it. */
export function Reach({ fresh }: { fresh: string }) {
  const { id, document } = useJob();
  const units = useUnits();
  const runs = document.plan?.runs ?? [];
  const layouts = new Set(runs.map((r) => r.layout)).size;
  const repeats = document.plan?.repeats ?? usual("plan.repeats");
  const found = useReach(id, layouts, fresh).data;
  if (layouts < 2 || !found) return null;
  const gap = (k: number) => `${units.text("difference", k, 1)} ${units.unit("difference")}`;
  return (
    <section className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-y hairline py-2" aria-label="What runs can tell">
      <span className="text-body">A gap of the processor is told from</span>
      {found.rows.map((r) => (
        <span
          key={r.runs}
          data-reach={r.runs}
          className={`text-body ${r.runs === repeats ? "font-semibold underline decoration-2 underline-offset-4" : "text-faint"}`}
        >
          {gap(r.gap_k)} <span className="text-small">with {r.runs === 1 ? "one run" : `${r.runs} runs`} of each</span>
        </span>
      ))}
      <span className="w-full text-fine text-faint">
        Smaller ones mostly cannot be told, and are then not said to be none. Builds scatter by {gap(found.sigma_k)}:{" "}
        {found.origin}.
      </span>
    </section>
  );
}
