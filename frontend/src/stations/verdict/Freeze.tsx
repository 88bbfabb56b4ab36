import { useEffect, useRef, useState } from "react";
import { useFreeze, useVerdicts, type Verdict, type VerdictSettings } from "@/shared/api/hooks";
import { makeReport, underWay, useTask } from "@/shared/api/tasks";
import { svgText } from "@/shared/charts/save";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head } from "@/shared/ui/bits";
import { useKeptText } from "@/shared/ui/kept";
import { Frontier, Way } from "./Argument";

const SIGNER = "oventa-signer";
const MOST_DRAWN = 6;
const ASIDE = "off the screen";

/** The decision: reason and name, frozen with the whole argument and its drawings. */
export function Freeze({ v, settings, settled }: { v: Verdict; settings: VerdictSettings; settled: boolean }) {
  const { id } = useJob();
  const freeze = useFreeze(id);
  const [reason, setReason] = useKeptText(`reason-${id}`);
  const [name, setName] = useState(() => localStorage.getItem(SIGNER) ?? "");
  const [drawing, setDrawing] = useState(false);
  const chosen = v.chosen ?? "";
  const ready = settled && reason.trim() !== "" && chosen !== "" && !freeze.isPending && !drawing;
  const done = (drawings: Record<string, string>) => {
    setDrawing(false);
    localStorage.setItem(SIGNER, name);
    freeze.mutate({ layout: chosen, reason, signed_by: name, settings, drawings }, { onSuccess: () => setReason("") });
  };
  return (
    <section className="flex flex-col gap-2">
      <Head remark={`for ${chosen}`}>Decide</Head>
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        Because
        <textarea
          className="textarea textarea-sm h-20 w-full text-small text-base-content"
          value={reason}
          placeholder="What decided it, and what was given up for it"
          onChange={(e) => setReason(e.target.value)}
        />
      </label>
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        Signed by
        <input
          className="input input-sm w-full text-base-content"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <button type="button" className="btn btn-primary" disabled={!ready} onClick={() => setDrawing(true)}>
        {freeze.isPending || drawing ? "Freezing …" : `Freeze this verdict: build ${chosen}`}
      </button>
      <p className="text-fine text-faint">
        {reason.trim()
          ? "Kept as it stands: claim, figures, doubts, settings, runs and drawings. Later edits make a new record."
          : "Write the reason first; it is kept with the figures."}
      </p>
      {freeze.error && (
        <p role="alert" className="text-small text-error">
          {freeze.error.message}
        </p>
      )}
      {drawing && <Stills v={v} onDone={done} />}
    </section>
  );
}

/** Drawings for the record, on paper colours, out of sight. */
function Stills({ v, onDone }: { v: Verdict; onDone: (drawings: Record<string, string>) => void }) {
  const { document } = useJob();
  const bench = useWorkbench();
  const box = useRef<HTMLDivElement>(null);
  const finish = useRef(onDone);
  finish.current = onDone;
  const names = [...new Set([v.chosen, v.reference, ...v.placed.map((p) => p.layout)])]
    .filter((x): x is string => x !== null && x !== "")
    .slice(0, MOST_DRAWN);
  useEffect(() => {
    const timer = setTimeout(() => {
      const found: Record<string, string> = {};
      for (const item of box.current?.querySelectorAll("[data-still]") ?? []) {
        const svg = item.querySelector("svg");
        if (svg) found[item.getAttribute("data-still") ?? ""] = svgText(svg);
      }
      finish.current(found);
    }, 60);
    return () => clearTimeout(timer);
  }, []);
  return (
    <div
      ref={box}
      aria-hidden="true"
      title={ASIDE}
      data-theme="daybench"
      inert
      className="fixed top-0 -left-[4000px] w-[640px] text-base-content"
    >
      {names.map((name) => (
        <div key={name} data-still={name} className="h-[420px]">
          <Cutaway doc={document} layout={layoutOf(document, name)} forecast={bench.rackForecasts.get(name)} title={name} busy />
        </div>
      ))}
      <div data-still="Coolest for its sound">
        <Frontier v={v} />
      </div>
      <div data-still="One change after another">
        <Way v={v} channel="cpu_package_c" />
      </div>
    </div>
  );
}

/** What was decided, newest first: whether it still holds, what was another before, and its files. */
export function Records() {
  const { id, document } = useJob();
  const verdicts = useVerdicts(id, document);
  const rows = verdicts.data ?? [];
  if (!rows.length) return null;
  return (
    <section className="flex flex-col gap-2">
      <Head remark={String(rows.length)}>Records</Head>
      {rows.map((r) => (
        <article
          key={r.id}
          className="flex flex-col gap-1 border-l-2 border-base-content pl-3 text-small"
          data-verdict={r.layout}
          data-stale={r.stale.length > 0}
        >
          <strong>
            {r.layout}, {new Date(r.made_at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}
            {r.signed_by && `, ${r.signed_by}`}
          </strong>
          <p className="whitespace-pre-wrap">{r.reason}</p>
          {r.stale.length > 0 && (
            <p className="text-warning">
              <span className="badge badge-sm badge-warning badge-outline mr-1">stale</span>
              Changed since: {r.stale.slice(0, 4).join("; ")}
              {r.stale.length > 4 && ` and ${r.stale.length - 4} more`}.
            </p>
          )}
          {r.anew.length > 0 && (
            <p className="text-faint" data-anew>
              Judged by the method of today: {r.anew.slice(0, 4).join("; ")}
              {r.anew.length > 4 && ` and ${r.anew.length - 4} more`}.
            </p>
          )}
          {r.moved.length > 0 && (
            <p className="text-faint">
              Against the record before: {r.moved.slice(0, 4).join("; ")}
              {r.moved.length > 4 && ` and ${r.moved.length - 4} more`}.
            </p>
          )}
          {r.digest ? (
            <p className="flex flex-wrap gap-x-3">
              <a className="underline" href={`/api/verdicts/${r.id}/report.html`} target="_blank" rel="noreferrer">
                report
              </a>
              <Pdf verdict={r.id} />
              <a className="underline" href={`/api/verdicts/${r.id}/figures.csv`} download>
                CSV
              </a>
              <a className="underline" href={`/api/verdicts/${r.id}/record.json`} download>
                JSON
              </a>
              <a className="underline" href={`/api/jobs/${id}/package.zip`} download>
                data package
              </a>
              <a className="underline" href={`/api/verdicts/${r.id}/replication.json`} download>
                to repeat it
              </a>
            </p>
          ) : (
            <p className="text-faint">Given before records were kept.</p>
          )}
          {r.digest && <p className="font-mono text-tiny text-faint">{r.digest.slice(0, 16)}</p>}
        </article>
      ))}
    </section>
  );
}

/** The report as PDF: made beside everything else, and handed over once it is there. */
function Pdf({ verdict }: { verdict: number }) {
  const [made, setMade] = useState<number | null>(null);
  const [fault, setFault] = useState("");
  const task = useTask(made).data;
  const ready = task?.state === "done" ? task.id : null;
  useEffect(() => {
    if (ready !== null) location.assign(`/api/tasks/${ready}/file`);
  }, [ready]);
  const ask = () => {
    setFault("");
    setMade(null);
    makeReport(verdict).then(
      (t) => setMade(t.id),
      (e: Error) => setFault(e.message),
    );
  };
  const wrong = fault || (task?.state === "failed" ? `${task.fault?.title}. ${task.fault?.do}` : "");
  return (
    <>
      <button type="button" className="cursor-pointer underline" disabled={underWay(task)} onClick={ask}>
        {underWay(task) ? "PDF is being made …" : "PDF"}
      </button>
      {wrong && (
        <span role="alert" className="text-error">
          {wrong}
        </span>
      )}
    </>
  );
}
