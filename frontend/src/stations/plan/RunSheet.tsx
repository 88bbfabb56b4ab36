import { useNavigate } from "@tanstack/react-router";
import type { Schemas } from "@/shared/api/client";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Caution } from "@/shared/ui/Caution";
import { hours } from "@/shared/units/hours";
import { CAUTIONS } from "@/shared/words/words";

type Sheet = Schemas["RunSheet"];
type Line = NonNullable<Sheet["lines"]>[number];

/** The evening in its order: runs, the hand work between them, waiting; runs can be moved and taken off. */
export function RunSheet({ sheet }: { sheet: Sheet }) {
  const lines = sheet.lines ?? [];
  const total = sheet.minutes || 1;
  const next = sheet.next?.id ?? null;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex h-9 overflow-hidden rounded-md border border-base-content" aria-hidden="true">
        {lines.map((l) => (
          <span
            key={`${l.kind}${l.at_min}`}
            title={l.words.join("; ")}
            style={{ width: `${(100 * l.minutes) / total}%` }}
            className={`flex items-center justify-center overflow-hidden border-r border-base-content/40 font-mono text-small font-semibold last:border-r-0 ${
              l.kind === "run"
                ? l.done
                  ? "bg-base-content text-base-100"
                  : "bg-paper"
                : l.kind === "wait"
                  ? "hatched"
                  : "bg-base-300"
            }`}
          >
            {l.kind === "run" ? l.layout : ""}
          </span>
        ))}
      </div>
      <p className="flex flex-wrap gap-x-4 text-fine text-faint" aria-hidden="true">
        <span>white: a run</span>
        <span>ink: a run that is in</span>
        <span>grey: work by hand</span>
        <span>hatched: waiting</span>
      </p>
      {lines.some((l) => l.kind === "rebuild") && (
        <Caution more={`${CAUTIONS.fanMore} ${CAUTIONS.coolant}`}>{CAUTIONS.fan}</Caution>
      )}
      <ol className="flex flex-col" aria-label="Run sheet">
        {lines.map((l) => (
          <SheetLine key={`${l.kind}${l.run ?? ""}${l.at_min}`} line={l} next={l.run !== null && l.run === next} />
        ))}
      </ol>
    </div>
  );
}

function SheetLine({ line, next }: { line: Line; next: boolean }) {
  const { id, document, edit } = useJob();
  const { choose } = useWorkbench();
  const go = useNavigate();
  const time = <span className="w-14 shrink-0 text-right font-mono text-small text-faint">{hours(line.at_min)}</span>;
  const size = <span className="w-16 shrink-0 text-right font-mono text-small">{Math.round(line.minutes)} min</span>;
  if (line.kind !== "run")
    return (
      <li className="flex items-baseline gap-3 border-b border-dashed hairline py-1 pl-1" data-sheet={line.kind}>
        {time}
        <span className="w-9 max-sm:hidden" />
        <span className={`flex-1 text-small ${line.done ? "text-faint line-through" : ""}`}>
          {line.kind === "rebuild" ? <strong>Rebuild to {line.layout}: </strong> : "Wait: "}
          {line.words.join("; ") || "nothing to change"}
        </span>
        {size}
        <span className="w-24 max-sm:hidden" />
      </li>
    );
  const runs = document.plan?.runs ?? [];
  const at = runs.findIndex((r) => r.id === line.run);
  const move = (by: number) =>
    edit(`move run ${at + 1}`, (d) => {
      const list = d.plan?.runs;
      const own = list?.[at];
      const other = list?.[at + by];
      if (!list || !own || !other) return;
      list[at] = other;
      list[at + by] = own;
    });
  return (
    <li
      className={`flex items-center gap-3 border-b hairline py-1.5 pl-1 max-sm:flex-wrap max-sm:gap-x-2 ${next ? "border-l-4 border-l-base-content bg-paper" : ""}`}
      data-sheet="run"
      data-done={String(line.done)}
    >
      {time}
      <span className="flex size-9 shrink-0 items-center justify-center rounded-md border-2 border-base-content font-mono text-lead font-semibold">
        {line.layout}
      </span>
      <span className="min-w-0 flex-1 text-body max-sm:basis-48">
        {document.layouts?.find((x) => x.id === line.layout)?.name || `layout ${line.layout}`}
        <span className="block truncate text-small text-faint">{line.words.join(", ")}</span>
      </span>
      {line.done ? (
        <span className="text-small">is in</span>
      ) : next ? (
        <button
          type="button"
          className="btn btn-sm btn-primary no-print"
          onClick={() => {
            if (line.layout) choose(line.layout);
            go({ to: "/jobs/$jobId/bench", params: { jobId: String(id) } });
          }}
        >
          To the bench
        </button>
      ) : null}
      {size}
      <span className="no-print flex w-24 justify-end gap-1">
        <Small words={`run ${at + 1} earlier`} shown="↑" disabled={at <= 0} run={() => move(-1)} />
        <Small words={`run ${at + 1} later`} shown="↓" disabled={at >= runs.length - 1} run={() => move(1)} />
        <Small
          words={`take run ${at + 1} off`}
          shown="×"
          run={() =>
            edit(`take run ${at + 1} off`, (d) => {
              if (d.plan?.runs) d.plan.runs = d.plan.runs.filter((r) => r.id !== line.run);
            })
          }
        />
      </span>
    </li>
  );
}

function Small({ words, shown, run, disabled }: { words: string; shown: string; run: () => void; disabled?: boolean }) {
  return (
    <button
      type="button"
      aria-label={words}
      title={words}
      disabled={disabled}
      onClick={run}
      className="size-7 cursor-pointer rounded-md border hairline text-body disabled:opacity-30"
    >
      {shown}
    </button>
  );
}
