import { useState } from "react";
import { type JobRow, useBin, useDuplicateJob, useJobs, useLoading, useRemoveJob, useRestoreJob } from "@/shared/api/hooks";
import { Head } from "@/shared/ui/bits";
import { count, has } from "@/shared/words/lists";

const FEW = 3; // as many are seen at a glance
const QUIET = "cursor-pointer self-center px-1 text-fine text-faint underline underline-offset-2 hover:text-base-content";

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;

/** The jobs on this machine; one that was removed lies in the bin, from where it comes back as it was. */
export function Jobs({ onOpen }: { onOpen: (id: number) => void }) {
  const jobs = useJobs();
  const loading = useLoading();
  const bin = useBin();
  const remove = useRemoveJob();
  const restore = useRestoreJob();
  const duplicate = useDuplicateJob();
  const [removed, setRemoved] = useState<JobRow | null>(null);
  const [wanted, setWanted] = useState("");
  const all = jobs.data ?? [];
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = all.filter((j) => words.every((w) => `${j.name} ${j.case}`.toLowerCase().includes(w)));
  const fault = jobs.error ?? remove.error ?? restore.error ?? duplicate.error;
  return (
    <section className="flex flex-col gap-3">
      <Head remark={jobs.data ? `${jobs.data.length} here` : ""}>Jobs on this machine</Head>
      {fault && (
        <p role="alert" className="text-small text-error">
          {fault.message}
        </p>
      )}
      {loading && (
        <p role="status" className="rounded-md border hairline px-3 py-2 text-small">
          {loading}
        </p>
      )}
      {jobs.data?.length === 0 && <p>No job yet. Start one at the right, or restart with ./oventa demo for a made-up example.</p>}
      {all.length > FEW && (
        <input
          type="search"
          aria-label="Search the jobs by name or case"
          placeholder="search by name or case"
          className="input input-sm w-full"
          value={wanted}
          onChange={(e) => setWanted(e.target.value)}
        />
      )}
      {all.length > 0 && !shown.length && <p className="text-small">No job here is called so.</p>}
      {removed && (
        <p role="status" className="flex items-center gap-3 rounded-md border hairline px-3 py-2 text-small">
          <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{removed.name} lies in the bin, with its runs.</span>
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => restore.mutate(removed.id, { onSuccess: () => setRemoved(null) })}
          >
            Put it back
          </button>
        </p>
      )}
      <ul className="flex flex-col gap-2">
        {shown.map((job) => (
          <li key={job.id} className="flex items-stretch gap-2 max-sm:flex-col" data-job={job.name}>
            {job.unreadable ? <Unreadable job={job} /> : <Openable job={job} onOpen={() => onOpen(job.id)} />}
            {!job.unreadable && (
              <button
                type="button"
                className={QUIET}
                aria-label={`Duplicate ${job.name}`}
                title="The case, parts and layouts as a job of their own; runs and records stay here"
                disabled={duplicate.isPending}
                onClick={() => duplicate.mutate(job.id)}
              >
                duplicate
              </button>
            )}
            <button
              type="button"
              className={QUIET}
              aria-label={`Remove ${job.name}`}
              disabled={remove.isPending}
              onClick={() => remove.mutate(job.id, { onSuccess: () => setRemoved(job) })}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
      {has(bin.data) && (
        <details className="text-small">
          <summary className="cursor-pointer">Bin: {plural(count(bin.data), "job")}</summary>
          <ul className="mt-2 flex flex-col gap-1.5">
            {bin.data?.map((job) => (
              <li key={job.id} className="flex items-baseline gap-3">
                <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{job.name}</span>
                <span className="text-faint">{plural(job.days_left, "day")} left</span>
                <a
                  className="underline underline-offset-2"
                  href={`/api/jobs/${job.id}/stored.json`}
                  title="Everything of it as it is stored, as JSON"
                >
                  export
                </a>
                <button
                  type="button"
                  className="cursor-pointer underline underline-offset-2"
                  onClick={() => restore.mutate(job.id, { onSuccess: () => removed?.id === job.id && setRemoved(null) })}
                >
                  put it back
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function Openable({ job, onOpen }: { job: JobRow; onOpen: () => void }) {
  return (
    <button
      type="button"
      className="flex min-w-0 flex-1 cursor-pointer items-baseline justify-between gap-4 rounded-box border hairline bg-paper px-4 py-3 text-left max-sm:flex-col max-sm:gap-1 hover:border-base-content"
      onClick={onOpen}
    >
      <span className="min-w-0 [overflow-wrap:anywhere]">
        <span className="wide block text-lead">{job.name}</span>
        <span className="text-faint">{job.case || "case not named"}</span>
      </span>
      <span className="shrink-0 text-right text-small text-faint max-sm:text-left">
        {plural(job.layouts, "layout")}, {plural(job.runs, "run")}
        <br />
        changed {new Date(job.changed_at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}
      </span>
    </button>
  );
}

/** A stored job that cannot be opened is said to be one, and can be saved as it is. */
function Unreadable({ job }: { job: JobRow }) {
  return (
    <div className="min-w-0 flex-1 rounded-box border border-dashed border-error px-4 py-3 [overflow-wrap:anywhere]">
      <span className="wide block text-lead">{job.name}</span>
      <p className="text-small">
        This job is stored but cannot be opened: {job.unreadable}.{" "}
        <a className="underline underline-offset-2" href={`/api/jobs/${job.id}/stored.json`}>
          Export it as it is stored
        </a>
        , then remove it here.
      </p>
    </div>
  );
}
