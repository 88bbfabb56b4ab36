import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { importJob, startJob, useJobs, useLibrary } from "@/shared/api/hooks";
import { Button, Head, Select, TextField } from "@/shared/ui/bits";
import { Mark } from "./Mark";
import { ThemeSwitch } from "./ThemeSwitch";

/** The list of jobs, and the three ways to begin one. */
export function Home() {
  const jobs = useJobs();
  const go = useNavigate();
  const open = (id: number, station: "layouts" | "survey") =>
    go({ to: `/jobs/$jobId/${station}`, params: { jobId: String(id) } });
  return (
    <main className="mx-auto flex min-h-full max-w-5xl flex-col gap-8 p-8">
      <header className="flex items-center justify-between">
        <Mark large />
        <ThemeSwitch />
      </header>
      <p className="max-w-2xl text-[16px] leading-relaxed">
        One case, a pile of fans, an evening. Oventa says which way every fan should blow and what each layout will probably do,
        and, from the runs you log, which layout to build.
      </p>
      <div className="grid gap-8 md:grid-cols-[1fr_20rem]">
        <section className="flex flex-col gap-3">
          <Head remark={jobs.data ? `${jobs.data.length} here` : ""}>Jobs on this machine</Head>
          {jobs.error && <p className="text-error">{jobs.error.message}</p>}
          {jobs.data?.length === 0 && (
            <p>No job yet. Start one at the right, or restart with ./oventa demo for a made-up example.</p>
          )}
          <ul className="flex flex-col gap-2">
            {jobs.data?.map((job) => (
              <li key={job.id}>
                <button
                  type="button"
                  className="flex w-full cursor-pointer items-baseline justify-between gap-4 rounded-box border hairline bg-paper px-4 py-3 text-left hover:border-base-content"
                  onClick={() => open(job.id, "layouts")}
                >
                  <span>
                    <span className="wide block text-[16px]">{job.name}</span>
                    <span className="text-faint">{job.case || "case not named"}</span>
                  </span>
                  <span className="text-right text-[13px] text-faint">
                    {job.layouts} {job.layouts === 1 ? "layout" : "layouts"}, {job.runs} {job.runs === 1 ? "run" : "runs"}
                    <br />
                    changed {new Date(job.changed_at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </section>
        <NewJob onMade={(id) => open(id, "survey")} onOpened={(id) => open(id, "layouts")} />
      </div>
    </main>
  );
}

function NewJob({ onMade, onOpened }: { onMade: (id: number) => void; onOpened: (id: number) => void }) {
  const library = useLibrary();
  const [name, setName] = useState("");
  const [caseKey, setCaseKey] = useState("");
  const [fault, setFault] = useState<string | null>(null);
  const guard = async (step: () => Promise<void>) => {
    setFault(null);
    try {
      await step();
    } catch (error) {
      setFault(error instanceof Error ? error.message : String(error));
    }
  };
  const cases = (library.data?.cases ?? []).map((c) => ({ value: c.key, words: `${c.name}: ${c.summary}` }));
  return (
    <section className="flex flex-col gap-3">
      <Head>Start a job</Head>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          guard(async () => onMade((await startJob(name || "My machine", caseKey || null)).id));
        }}
      >
        <TextField label="Name of the job" value={name} onChange={setName} wide />
        <Select
          label="Start from"
          value={caseKey}
          onChange={setCaseKey}
          choices={cases}
          empty="an empty box, measured by hand"
          wide
        />
        <button type="submit" className="btn btn-primary btn-sm">
          Start the survey
        </button>
      </form>
      <div className="mt-3 flex flex-col gap-2">
        <Head level={3}>Or open a job from a file</Head>
        <label className="flex flex-col gap-1 text-[13px] text-faint">
          A job document, *.oventa.json
          <input
            type="file"
            accept=".json,.zip,application/json,application/zip"
            className="file-input file-input-sm w-full text-base-content"
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) guard(async () => onOpened((await importJob(file)).id));
            }}
          />
        </label>
      </div>
      {fault && (
        <div role="alert" className="rounded-md border border-error p-3 text-[13px]">
          <p className="mb-2">{fault}</p>
          <Button small onClick={() => setFault(null)}>
            Understood
          </Button>
        </div>
      )}
    </section>
  );
}
