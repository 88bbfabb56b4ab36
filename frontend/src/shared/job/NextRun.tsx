import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import type { JobDoc } from "@/shared/api/client";
import { type NextDoc, useNext } from "@/shared/api/propose";
import { useJob } from "@/shared/job/store";
import { missingParts, useWorkbench } from "@/shared/job/workbench";
import { Button, Working } from "@/shared/ui/bits";
import { hours } from "@/shared/units/hours";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { RUN_KINDS, saidOfChoice } from "@/shared/words/words";

/** A proposal needs two layouts of parts that can be forecast. */
const canAsk = (document: JobDoc) => (document.layouts ?? []).length > 1 && missingParts(document).length === 0;

/** The one run most worth making now, or that no further one is likely to change the pick. */
export function NextRun() {
  const { id, document } = useJob();
  const [kept, setKept] = useState<string[]>([]);
  const ready = canAsk(document);
  const { data, error } = useNext(id, document, ready, kept);
  if (!ready || error) return null; // what is missing is said where it is missing
  return (
    <section
      className="flex flex-col gap-2 rounded-box border border-base-content bg-paper p-3"
      aria-label="The next run"
      data-next={data?.stop ? "stop" : (data?.candidates[0]?.layout ?? "working")}
    >
      {data ? (
        <Told next={data} onKeep={(x) => setKept([...kept, x])} />
      ) : (
        <Working words="What to run next is being worked out …" />
      )}
    </section>
  );
}

/** A layout of whose runs none counts is not run for the first time. */
const kindOf = (c: NextDoc["candidates"][number]) => saidOfChoice(RUN_KINDS, c.uncounted ? "uncounted" : c.kind);

/** The same in one line, where the eye already is. */
export function NextLine() {
  const { id, document } = useJob();
  const ready = canAsk(document);
  const { data, error } = useNext(id, document, ready);
  const first = data?.candidates[0];
  if (!ready || !data || error) return null;
  return (
    <p className="text-small" data-next-line={data.stop ? "stop" : first?.layout}>
      {data.stop || !first ? (
        <Said text={data.why} />
      ) : (
        <>
          <strong>
            Next: {first.layout} {kindOf(first)}.
          </strong>{" "}
          <Said text={data.why} />
        </>
      )}
    </p>
  );
}

function Told({ next, onKeep }: { next: NextDoc; onKeep: (layout: string) => void }) {
  const { id, document } = useJob();
  const { choose } = useWorkbench();
  const units = useUnits();
  const go = useNavigate();
  const first = next.candidates[0];
  const struck = next.stands.filter((s) => s.struck);
  const name = document.layouts?.find((x) => x.id === first?.layout)?.name;
  const bench = (layout: string) => {
    choose(layout);
    go({ to: "/jobs/$jobId/bench", params: { jobId: String(id) } });
  };
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1">
        <p className="text-lead font-semibold">
          {next.stop ? (
            <>Enough: {next.pick}</>
          ) : first ? (
            <>
              Next: {first.layout} {kindOf(first)}
              {name && <span className="text-body font-normal text-faint"> {name}</span>}
            </>
          ) : (
            "Nothing to run"
          )}
        </p>
        {!next.stop && first && (
          <Button strong small onClick={() => bench(first.layout)}>
            To the bench
          </Button>
        )}
      </div>
      <p className="text-body">
        <Said text={next.why} />{" "}
        {!next.stop && first && first.layout !== next.pick && units.said(`${first.layout}: ${first.why}.`)}
      </p>
      <details className="text-small">
        <summary className="cursor-pointer">
          {next.rest.length > 0
            ? `As things stand: ${next.rest.join(", ")}, about ${hours(next.rest_minutes)}`
            : "Where every layout stands"}
        </summary>
        <Stands next={next} />
        {!next.stop && next.candidates.length > 0 && <Worths next={next} />}
      </details>
      {struck.map((s) => (
        <p key={s.layout} className="text-small text-faint" data-struck={s.layout}>
          {s.layout} is <Said text={s.why} />.{" "}
          <button type="button" className="cursor-pointer underline underline-offset-2" onClick={() => onKeep(s.layout)}>
            put it back
          </button>
        </p>
      ))}
    </>
  );
}

function Stands({ next }: { next: NextDoc }) {
  const units = useUnits();
  return (
    <table className="mt-2 w-full max-w-xl">
      <thead className="text-left text-fine text-faint">
        <tr>
          <th className="font-normal">layout</th>
          <th className="text-right font-normal">
            behind {next.pick}, {units.unit("difference")}, by your weights
          </th>
          <th className="text-right font-normal">runs</th>
        </tr>
      </thead>
      <tbody>
        {next.stands.map((s) => (
          <tr key={s.layout} className="border-t hairline" data-stand={s.layout}>
            <td className="py-0.5">{s.layout}</td>
            <td className="text-right font-mono">
              {s.layout === next.pick
                ? "leads"
                : `${units.signed("difference", s.behind_k, 1)} ${units.band("difference", s.band_k, 1)}`}
            </td>
            <td className="text-right font-mono">{s.runs > 0 ? s.runs : s.uncounted ? "none counts" : "never"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Worths({ next }: { next: NextDoc }) {
  const units = useUnits();
  return (
    <table className="mt-3 w-full max-w-xl">
      <thead className="text-left text-fine text-faint">
        <tr>
          <th className="font-normal">a run of</th>
          <th className="text-right font-normal">expected to gain, {units.unit("difference")} an hour</th>
          <th className="text-right font-normal">takes</th>
        </tr>
      </thead>
      <tbody>
        {next.candidates.map((c) => (
          <tr key={c.layout} className="border-t hairline" title={c.why} data-candidate={c.layout}>
            <td className="py-0.5">
              {c.layout} {kindOf(c)}
              {num(c.repeats) > 1 && `, ${c.repeats} in a row`}
            </td>
            <td className="text-right font-mono">{units.text("difference", c.gain_k_per_h, 2)}</td>
            <td className="text-right font-mono">{hours(c.minutes)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
