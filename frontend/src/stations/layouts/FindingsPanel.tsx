import { useState } from "react";
import type { Finding } from "@/shared/api/client";
import { applyFix, layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Head, Segments, TextField } from "@/shared/ui/bits";

const WORDS = { error: "error", warning: "warning", note: "note" } as const;
const TONE = {
  error: "bg-error text-error-content rotate-0",
  warning: "bg-warning text-warning-content",
  note: "bg-secondary text-secondary-content",
};

type Kind = "all" | Finding["kind"];
const KINDS: { value: Kind; words: string }[] = [
  { value: "all", words: "all" },
  { value: "physics", words: "physics" },
  { value: "practice", words: "practice" },
  { value: "taste", words: "taste" },
];

/** Findings: what, where (lit in the drawing), because, do. */
export function FindingsPanel(props: { findings: Finding[]; layoutId: string; onMark: (mount: string | null) => void }) {
  const { edit } = useJob();
  const [kind, setKind] = useState<Kind>("all");
  const { findings } = props;
  const shown = findings.map((f, i) => ({ f, nth: i + 1 })).filter(({ f }) => kind === "all" || f.kind === kind);
  const accept = (f: Finding, reason: string) =>
    edit(`accept: ${f.what}`, (d) => {
      const layout = layoutOf(d, props.layoutId);
      if (layout) layout.accepted = [...(layout.accepted ?? []), { code: f.code, mounts: f.mounts, reason }];
    });
  const take = (f: Finding) =>
    edit(`take back: ${f.what}`, (d) => {
      const layout = layoutOf(d, props.layoutId);
      if (layout) layout.accepted = (layout.accepted ?? []).filter((a) => a.code !== f.code || a.reason !== f.accepted);
    });
  const count = (s: Finding["severity"]) => findings.filter((f) => f.severity === s && !f.accepted).length;
  const remark = (["error", "warning", "note"] as const)
    .filter((s) => count(s))
    .map((s) => `${count(s)} ${WORDS[s]}${count(s) === 1 ? "" : "s"}`)
    .join(", ");
  return (
    <section aria-live="polite">
      <Head remark={remark || "none"}>Findings</Head>
      {!findings.length && <p className="mt-2 text-[13px] text-faint">Nothing an experienced builder would object to.</p>}
      {findings.length > 3 && (
        <div className="mt-2">
          <Segments label="Kind of finding" value={kind} onChange={setKind} choices={KINDS} />
        </div>
      )}
      <ol>
        {shown.map(({ f, nth }) => (
          <li
            key={f.code + f.mounts.join()}
            data-finding={f.code}
            className="flex gap-2.5 border-b hairline py-2.5"
            onPointerEnter={() => props.onMark(f.mounts.at(-1) ?? null)}
            onPointerLeave={() => props.onMark(null)}
          >
            <span
              className={`mt-0.5 flex size-5 shrink-0 items-center justify-center text-[11.5px] font-bold ${TONE[f.severity]} ${f.severity === "note" ? "rounded-sm" : "rounded-full"}`}
            >
              {nth}
            </span>
            <div className="text-[13px] leading-snug">
              <p className="font-semibold">
                {f.what}{" "}
                <span className="font-normal text-faint">
                  ({WORDS[f.severity]}, {f.kind})
                </span>
              </p>
              <p>{f.because}</p>
              <p className="text-faint">{f.do}</p>
              {f.accepted ? (
                <p className="mt-1">
                  Accepted: “{f.accepted}”{" "}
                  <button type="button" className="cursor-pointer underline" onClick={() => take(f)}>
                    take back
                  </button>
                </p>
              ) : (
                <div className="mt-1.5 flex flex-wrap gap-1.5">
                  {(f.fixes ?? []).map((fix) => (
                    <Button key={fix.label} small onClick={() => edit(fix.label, (d) => applyFix(d, props.layoutId, fix))}>
                      {fix.label}
                    </Button>
                  ))}
                  <Accept onAccept={(reason) => accept(f, reason)} />
                </div>
              )}
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}

const LEAST_LETTERS = 3;

/** A finding can be set aside for a reason, which stays in the report. */
function Accept({ onAccept }: { onAccept: (reason: string) => void }) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  if (!open)
    return (
      <Button small onClick={() => setOpen(true)}>
        Accept it …
      </Button>
    );
  return (
    <form
      className="flex w-full items-end gap-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason.trim().length >= LEAST_LETTERS) onAccept(reason.trim());
      }}
    >
      <div className="min-w-0 flex-1">
        <TextField label="Why it may stay" value={reason} onChange={setReason} wide />
      </div>
      <button type="submit" className="btn btn-xs btn-outline" disabled={reason.trim().length < LEAST_LETTERS}>
        accept
      </button>
    </form>
  );
}
