import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { importJob, startJob, useLibrary } from "@/shared/api/hooks";
import { beginImport, callOff, useImports, useTask } from "@/shared/api/tasks";
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
        <div className="flex flex-col gap-8">
          <Jobs onOpen={(id) => open(id, "layouts")} />
          <section className="flex flex-col gap-2">
            <Head>Practice</Head>
            <p className="text-body">
              Made-up machines with something wrong, and fans of which one has to say which way they blow.{" "}
              <Link to="/practice" className="underline underline-offset-2">
                Practise
              </Link>
            </p>
          </section>
          <section className="flex flex-col gap-2">
            <Head>Evidence</Head>
            <p className="text-body">
              How often a word of this program is false, found with made-up machines whose truth is known.{" "}
              <Link to="/evidence" className="underline underline-offset-2">
                Look, and make it again
              </Link>
            </p>
          </section>
        </div>
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
  const [reading, setReading] = useState<number | null>(null);
  const queries = useQueryClient();
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
            onChange={picked((file) =>
              guard(async () => {
                if (file.name.toLowerCase().endsWith(".zip")) {
                  const { id } = await beginImport(file);
                  setReading(id);
                  await queries.invalidateQueries({ queryKey: ["imports"] });
                } else onOpened((await importJob(file)).id);
              }),
            )}
          />
        </label>
        <Reading own={reading} onOpened={onOpened} onFault={setFault} />
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

/** Packages that are being read, run by run; the one handed over here is opened when it is done. */
function Reading(props: { own: number | null; onOpened: (id: number) => void; onFault: (words: string) => void }) {
  const { own, onOpened, onFault } = props;
  const imports = useImports();
  const queries = useQueryClient();
  const mine = useTask(own).data;
  useEffect(() => {
    if (mine?.state === "done" && mine.made) onOpened(mine.made);
    if (mine?.state === "failed" && mine.fault) onFault(`${mine.name}: ${mine.fault.title}. ${mine.fault.do}`);
  }, [mine, onOpened, onFault]);
  return imports.map((t) => (
    <div key={t.id} role="status" className="flex flex-col gap-1 text-small" data-reading={t.name}>
      <progress className="progress w-full" value={t.done} max={Math.max(t.total, 1)} aria-label={`Reading ${t.name}`} />
      <p className="flex items-baseline justify-between gap-2">
        <span className="min-w-0 truncate">
          {t.name}: {t.total > 0 ? `${t.done} of ${t.total} runs read` : "being opened …"}
        </span>
        <Button small onClick={() => void callOff(t.id).then(() => queries.invalidateQueries({ queryKey: ["imports"] }))}>
          call it off
        </Button>
      </p>
    </div>
  ));
}
