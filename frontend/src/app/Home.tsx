import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { importJob, startJob, useLibrary } from "@/shared/api/hooks";
import { Button, Head, Select, TextField } from "@/shared/ui/bits";
import { picked } from "@/shared/ui/FileButton";
import { Jobs } from "./Jobs";
import { Mark } from "./Mark";
import { ThemeSwitch } from "./ThemeSwitch";

/** The list of jobs, and the three ways to begin one. */
export function Home() {
  const go = useNavigate();
  const open = (id: number, station: "layouts" | "survey") =>
    go({ to: `/jobs/$jobId/${station}`, params: { jobId: String(id) } });
  return (
    <main className="mx-auto flex min-h-full max-w-5xl flex-col gap-8 p-8">
      <header className="flex items-center justify-between">
        <Mark large />
        <ThemeSwitch />
      </header>
      <p className="max-w-2xl text-lead leading-relaxed">
        One case, a pile of fans, an evening. Oventa says which way every fan should blow and what each layout will probably do,
        and, from the runs you log, which layout to build.
      </p>
      <div className="grid gap-8 md:grid-cols-[1fr_20rem]">
        <Jobs onOpen={(id) => open(id, "layouts")} />
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
        <label className="flex flex-col gap-1 text-small text-faint">
          A job document, a package (zip) or a frozen record
          <input
            type="file"
            accept=".json,.zip,application/json,application/zip"
            className="file-input file-input-sm w-full text-base-content"
            onChange={picked((file) => guard(async () => onOpened((await importJob(file)).id)))}
          />
        </label>
      </div>
      {fault && (
        <div role="alert" className="rounded-md border border-error p-3 text-small">
          <p className="mb-2">{fault}</p>
          <Button small onClick={() => setFault(null)}>
            Understood
          </Button>
        </div>
      )}
    </section>
  );
}
