import { Link } from "@tanstack/react-router";
import type { Schemas } from "@/shared/api/client";
import { useRuns, type Verdict } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";
import { minutes } from "@/shared/units/convert";
import { Said } from "@/shared/units/Said";
import { type Kind, useUnits } from "@/shared/units/units";
import { channelWords, ENDS, LOADS, said, unitKind } from "@/shared/words/words";
import { figureOf } from "./words";

/** Where a figure comes from: its runs, window and correction, and every contribution to its uncertainty. */
export function BudgetPanel({
  v,
  layout,
  channel,
  onClose,
}: {
  v: Verdict;
  layout: string;
  channel: string;
  onClose: () => void;
}) {
  const { id } = useJob();
  const units = useUnits();
  const runs = useRuns(id);
  const figure = figureOf(v, layout, channel);
  if (!figure) return null;
  const kind = unitKind(channel);
  const unit = kind === "level" ? "dB" : units.unit(kind);
  const own = (runs.data ?? []).filter((r) => r.layout === layout && (r.load || "both") === v.load);
  const told = v.said.find((x) => x.other === layout && x.channel === channel);
  return (
    <section
      className="flex flex-col gap-2 rounded-box border border-base-content bg-paper p-3"
      aria-label="Where this figure comes from"
      data-budget={`${layout} ${channel}`}
    >
      <Head
        remark={
          <Button small onClick={onClose}>
            Close
          </Button>
        }
      >
        {layout}, {channelWords(channel)}
        {channel.endsWith("_c") ? " over room" : ""}, {said(LOADS, v.load)}
      </Head>
      <p className="font-mono text-lead font-semibold">
        {units.text(kind, figure.value, 2)} ± {units.text(kind, figure.budget.expanded, 2)} {unit}
      </p>
      <p className="text-small text-faint">
        Mean of {figure.runs} run{figure.runs === 1 ? "" : "s"}. ± is the expanded uncertainty at 95 %, k ={" "}
        {figure.budget.factor.toFixed(2)}
        {figure.budget.freedom ? ` on ${figure.budget.freedom.toFixed(0)} effective degrees of freedom` : ""}. Among layouts
        measured with the same sensors, whose own errors fall out of a difference: ± {units.text(kind, figure.band, 2)} {unit}.
      </p>
      <Contributions budget={figure.budget} kind={kind} unit={unit} />
      {told?.budget && (
        <div className="flex flex-col gap-1" data-difference-budget={`${v.chosen} ${layout}`}>
          <Head level={3} remark="what both share by their sensors is not in it">
            {v.chosen} less {layout}: {units.signed(kind, told.budget.value, 2)} ± {units.text(kind, told.budget.expanded, 2)}{" "}
            {unit}
          </Head>
          <Contributions budget={told.budget} kind={kind} unit={unit} />
        </div>
      )}
      <ul className="text-small" aria-label="Runs of this figure">
        {own.map((r) => {
          const c = r.analysis.channels.find((x) => x.name === channel);
          return (
            <li key={r.id} className="border-t hairline py-0.5">
              <Link to="/jobs/$jobId/bench" params={{ jobId: String(id) }} className="underline">
                {r.name}
              </Link>
              {c ? (
                <>
                  {": "}
                  <span className="font-mono">
                    {units.text(kind, c.rise_k ?? c.mean, 2)} {unit}
                  </span>
                  , window {minutes(c.window_s[0])} to {minutes(c.window_s[1])}
                  {c.rise_k !== null && `, room taken away as read`}
                </>
              ) : (
                ", not read"
              )}
              <span className="text-faint" data-protocol={r.protocol_key}>
                {r.protocol_key ? `, by ${r.protocol_key}` : ", by no protocol"}
              </span>
              {(r.edits ?? []).length > 0 && (
                <details className="pl-4 text-fine" data-edits={r.edits?.length}>
                  <summary className="cursor-pointer text-faint">
                    {r.edits?.length === 1 ? "one change" : `${r.edits?.length} changes`} since it was made
                  </summary>
                  <ul>
                    {r.edits?.map((e) => (
                      <li key={`${e.at} ${e.what}`}>
                        {new Date(e.at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}: <Said text={e.what} />
                      </li>
                    ))}
                  </ul>
                </details>
              )}
              {r.state !== "valid" && `; ${r.state}: ${r.void_reason}`}
              {r.state === "valid" && r.source_name === "by hand"
                ? r.stood_still
                  ? "; typed, stood still"
                  : `; ${ENDS.unknown}`
                : r.state === "valid" && !r.analysis.settled && "; not settled, left aside where others are"}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

type Shown = { budget: Schemas["Budget"]; kind: Kind; unit: string };

/** Every contribution by name, with its size beside the largest. */
function Contributions({ budget, kind, unit }: Shown) {
  const units = useUnits();
  const largest = Math.max(...budget.lines.map((l) => l.standard), 1e-9);
  return (
    <table className="text-small">
      <thead>
        <tr className="text-left text-faint">
          <th className="font-normal">contribution</th>
          <th className="text-right font-normal">standard, {unit}</th>
          <th className="pl-3 font-normal">type</th>
          <th className="pl-3 font-normal">degrees of freedom</th>
          <th className="w-[22%]" />
        </tr>
      </thead>
      <tbody>
        {budget.lines.map((l) => (
          <tr key={`${l.what}${l.common}`} className="border-t hairline">
            <td className="py-0.5">
              <Said text={l.what} />
              {l.common && <span className="text-faint">, the same in every run</span>}
            </td>
            <td className="text-right font-mono">{units.text(kind, l.standard, 3)}</td>
            <td className="pl-3">{l.kind}</td>
            <td className="pl-3 font-mono">{l.freedom ? l.freedom.toFixed(0) : "∞"}</td>
            <td className="pl-3">
              <span
                className={`block h-2 ${l.common ? "hatched" : "bg-accent/60"}`}
                style={{ width: `${(100 * l.standard) / largest}%` }}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
