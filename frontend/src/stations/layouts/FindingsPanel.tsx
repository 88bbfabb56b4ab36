import { useState } from "react";
import type { Finding } from "@/shared/api/client";
import { applyFix } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Head, Segments } from "@/shared/ui/bits";

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
  const count = (s: Finding["severity"]) => findings.filter((f) => f.severity === s).length;
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
              <div className="mt-1.5 flex flex-wrap gap-1.5">
                {(f.fixes ?? []).map((fix) => (
                  <Button key={fix.label} small onClick={() => edit(fix.label, (d) => applyFix(d, props.layoutId, fix))}>
                    {fix.label}
                  </Button>
                ))}
              </div>
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}
