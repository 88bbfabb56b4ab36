import { useRemoveUnreadableRun, useUnreadableRuns } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";

/** Runs that are stored but cannot be read: said, not hidden; each can be exported as it is, and removed. */
export function UnreadableRuns() {
  const { id } = useJob();
  const found = useUnreadableRuns(id);
  const remove = useRemoveUnreadableRun(id);
  if (!found.data?.length) return null;
  return (
    <section aria-label="Runs that cannot be read" className="m-4 rounded-md border border-dashed border-error p-3 text-small">
      <p className="font-semibold">
        {found.data.length === 1
          ? "One run is stored but cannot be read; it counts in nothing."
          : `${found.data.length} runs are stored but cannot be read; they count in nothing.`}
      </p>
      <ul className="mt-1 flex flex-col gap-1">
        {found.data.map((run) => (
          <li key={run.id} className="flex flex-wrap items-baseline gap-x-3 [overflow-wrap:anywhere]">
            <span>
              {run.name} of layout {run.layout}: {run.why}
            </span>
            <a className="underline underline-offset-2" href={`/api/runs/${run.id}/stored.json`}>
              export it as it is
            </a>
            <button
              type="button"
              className="cursor-pointer underline underline-offset-2"
              onClick={() => confirm(`Remove ${run.name} for good? Export it first.`) && remove.mutate(run.id)}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
      {remove.error && (
        <p role="alert" className="text-error">
          {remove.error.message}
        </p>
      )}
    </section>
  );
}
