import { Fragment, useState } from "react";
import type { Finding, Fix, LayoutDoc } from "@/shared/api/client";
import { layoutOf } from "@/shared/job/edits";
import { folded, gathered, offers, type Shown } from "@/shared/job/findings";
import { useJob } from "@/shared/job/store";
import { Button, Head, Segments, TextField } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { FINDING_KINDS, SEVERITIES } from "@/shared/words/words";

const TONE = {
  error: "bg-error text-error-content rotate-0",
  warning: "bg-warning text-warning-content",
  note: "bg-secondary text-secondary-content",
};

const WORDS = SEVERITIES;

type Kind = "all" | Finding["kind"];
const KINDS = [{ value: "all", words: "all" }, ...FINDING_KINDS] as const;

/** `known`: of the layout as it stands. `old`: of the layout before its last change. `failed`: none can be made. */
export type FindingsState = "known" | "old" | "working" | "failed";

/** Findings: what, where (lit in the drawing), because, do. */
export function FindingsPanel(props: {
  findings: Finding[];
  state: FindingsState;
  layoutId: string;
  onMark: (mount: string | null) => void;
}) {
  const [kind, setKind] = useState<Kind>("all");
  const { state } = props;
  const rows = gathered(props.findings);
  const shown = rows.map((row, i) => ({ row, nth: i + 1 })).filter(({ row }) => kind === "all" || row.lead.kind === kind);
  const count = (s: Finding["severity"]) => rows.filter(({ lead }) => lead.severity === s && !lead.accepted).length;
  const counted = (["error", "warning", "note"] as const)
    .filter((s) => count(s))
    .map((s) => `${count(s)} ${WORDS[s]}${count(s) === 1 ? "" : "s"}`)
    .join(", ");
  const remark = { known: counted || "none", old: "of before the last change", working: "being worked out", failed: "not known" };
  return (
    <section aria-live="polite" aria-busy={state === "old" || state === "working"} data-findings={state}>
      <Head remark={remark[state]}>Findings</Head>
      {state === "working" && <p className="mt-2 text-small text-faint">Findings are being worked out …</p>}
      {state === "failed" && <p className="mt-2 text-small text-faint">Without a forecast there are no findings.</p>}
      {state === "known" && !rows.length && (
        <p className="mt-2 text-small text-faint">Nothing an experienced builder would object to.</p>
      )}
      {state === "old" && (
        <p className="mt-2 text-small text-faint">Being worked out anew; below is what was found before the last change.</p>
      )}
      {rows.length > 3 && (
        <div className="mt-2">
          <Segments label="Kind of finding" value={kind} onChange={setKind} choices={KINDS} />
        </div>
      )}
      <ol className={state === "old" ? "opacity-60" : ""}>
        {folded(shown).map(({ first, rest }) => (
          <Fragment key={first.row.key}>
            <Row row={first.row} nth={first.nth} old={state === "old"} layoutId={props.layoutId} onMark={props.onMark} />
            {rest.length > 0 && (
              <li className="border-b hairline py-1.5 pl-7.5" data-alike={first.row.lead.code}>
                <details className="text-small">
                  <summary className="cursor-pointer">
                    The same of {rest.flatMap(({ row }) => row.lead.mounts.map((m) => m.toUpperCase())).join(", ")} (
                    {rest.map(({ nth }) => nth).join(", ")})
                  </summary>
                  <ol>
                    {rest.map(({ row, nth }) => (
                      <Row
                        key={row.key}
                        row={row}
                        nth={nth}
                        old={state === "old"}
                        layoutId={props.layoutId}
                        onMark={props.onMark}
                      />
                    ))}
                  </ol>
                </details>
              </li>
            )}
          </Fragment>
        ))}
      </ol>
    </section>
  );
}

function Row(props: { row: Shown; nth: number; old: boolean; layoutId: string; onMark: (mount: string | null) => void }) {
  const { row, nth, old, layoutId } = props;
  const { edit } = useJob();
  const { lead: f, also } = row;
  const accept = (reason: string) =>
    edit(`accept: ${f.what}`, (d) => {
      const layout = layoutOf(d, layoutId);
      const said = [f, ...also].map((x) => ({ code: x.code, mounts: x.mounts, reason }));
      if (layout) layout.accepted = [...(layout.accepted ?? []), ...said];
    });
  const light = () => props.onMark(f.mounts.at(-1) ?? null);
  const dim = () => props.onMark(null);
  const take = () =>
    edit(`take back: ${f.what}`, (d) => {
      const layout = layoutOf(d, layoutId);
      if (layout) layout.accepted = (layout.accepted ?? []).filter((a) => a.code !== f.code || a.reason !== f.accepted);
    });
  return (
    <li
      data-finding={f.code}
      className="flex gap-2.5 border-b hairline py-2.5"
      onPointerEnter={light}
      onPointerLeave={dim}
      onFocus={light}
      onBlur={dim}
    >
      <span
        className={`mt-0.5 flex size-5 shrink-0 items-center justify-center text-tiny font-bold ${TONE[f.severity]} ${f.severity === "note" ? "rounded-sm" : "rounded-full"}`}
      >
        {nth}
      </span>
      <div className="min-w-0 flex-1 text-small leading-snug">
        <p className="font-semibold">
          <Said text={f.what} />{" "}
          <span className="font-normal text-faint">
            ({WORDS[f.severity]}, {f.kind})
          </span>
        </p>
        <p>
          <Said text={f.because} />
        </p>
        {also.map((x) => (
          <p key={x.code} className="mt-1" data-also={x.code}>
            <Said text={x.what} />: <Said text={x.because} />
          </p>
        ))}
        <p className="text-faint">
          <Said text={f.do} />
        </p>
        {[f, ...also]
          .flatMap((x) => x.not_offered ?? [])
          .map((words) => (
            <p key={words} className="text-faint" data-not-offered>
              <Said text={words} />; so it is not offered.
            </p>
          ))}
        {f.accepted ? (
          <p className="mt-1">
            Accepted: “{f.accepted}”{" "}
            <button type="button" className="cursor-pointer underline" onClick={take}>
              take back
            </button>
          </p>
        ) : (
          <div className="mt-1.5 flex flex-wrap gap-1.5">
            {offers(row).map((fix) => (
              <FixButton key={fix.label} fix={fix} disabled={old} layoutId={layoutId} />
            ))}
            {row.lead.may_accept !== false && <Accept onAccept={accept} />}
          </div>
        )}
      </div>
    </li>
  );
}

/** A change that can be made with one press; what it is forecast to do stands on it. */
function FixButton({ fix, disabled, layoutId }: { fix: Fix; disabled: boolean; layoutId: string }) {
  const { edit } = useJob();
  const effect = useEffectWords()(fix);
  const releases = fix.releases?.length ? `, takes ${fix.releases.join(", ")}` : "";
  return (
    <button
      type="button"
      disabled={disabled}
      className="btn btn-xs btn-outline h-auto max-w-full flex-col items-start gap-0 py-1 text-left text-fine leading-tight whitespace-normal"
      data-fix={fix.action}
      onClick={() =>
        edit(fix.label, (d) => {
          d.layouts = (d.layouts ?? []).map((x) => (x.id === layoutId && fix.layout ? (fix.layout as unknown as LayoutDoc) : x));
        })
      }
    >
      <span>
        {fix.label}
        {releases}
        {effect && ":"}
      </span>
      {effect && <span className="font-mono text-tiny font-normal">{effect}</span>}
    </button>
  );
}

/** "processor −10.4 K, card −0.3 K, +0.2 dB", in the reader's units; what moves by less than can be read is left out. */
function useEffectWords() {
  const units = useUnits();
  return (fix: Fix) => {
    const kelvin = (value: number) => `${units.signed("difference", value, 1)} ${units.unit("difference")}`;
    const parts: string[] = [];
    if (Math.abs(num(fix.cpu_k)) >= 0.05) parts.push(`processor ${kelvin(num(fix.cpu_k))}`);
    if (Math.abs(num(fix.card_k)) >= 0.05) parts.push(`card ${kelvin(num(fix.card_k))}`);
    if (Math.abs(num(fix.cpu_w)) >= 0.5) parts.push(`processor ${units.signed("power", fix.cpu_w)} W`);
    if (Math.abs(num(fix.card_w)) >= 0.5) parts.push(`card ${units.signed("power", fix.card_w)} W`);
    if (Math.abs(num(fix.sound_db)) >= 0.05) parts.push(`${units.signed("plain", fix.sound_db, 1)} dB`);
    return parts.join(", ") || "no change of temperature or sound";
  };
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
