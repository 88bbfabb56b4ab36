import { useMemo } from "react";
import { useRuns } from "@/shared/api/hooks";
import { madeOf, useRunSheet } from "@/shared/api/live";
import { NextRun } from "@/shared/job/NextRun";
import { useJob } from "@/shared/job/store";
import { Button, Empty, Head, Working } from "@/shared/ui/bits";
import { Term } from "@/shared/ui/Term";
import { hours } from "@/shared/units/hours";
import { Said } from "@/shared/units/Said";
import { num } from "@/shared/words/lists";
import { ControlDrift } from "./ControlDrift";
import { Designs } from "./Designs";
import { Guess } from "./Guess";
import { Orders } from "./Orders";
import { PlanMaker } from "./PlanMaker";
import { ProtocolPanel } from "./ProtocolPanel";
import { Reach } from "./Reach";
import { RunSheet } from "./RunSheet";
import { SensorMap } from "./SensorMap";

/** Which layouts are run, how, in which order, and how long an evening it is. */
export function PlanStation() {
  const { id, document, edit } = useJob();
  const runs = useRuns(id);
  const rows = runs.data ?? [];
  const sheet = useRunSheet(document, id, madeOf(rows));
  const used = useMemo(() => new Set(rows.map((r) => r.protocol_key).filter(Boolean)), [rows]);
  const planned = (document.plan?.runs ?? []).length;
  const found = sheet.data;
  return (
    <div className="flex h-full max-lg:h-auto max-lg:flex-col">
      <div className="flex min-w-0 flex-1 flex-col gap-4 overflow-y-auto p-4">
        <header>
          <h1 className="text-figure">
            {planned && found
              ? `${found.runs} ${found.runs === 1 ? "run" : "runs"}, ${hours(num(found.minutes))}`
              : "What is run, how, and in which order"}
          </h1>
          {planned > 0 && found && (
            <p className="text-body text-faint">
              {found.hand_minutes ? `${hours(found.hand_minutes)} of it with a screwdriver` : "Nothing to rebuild"}; begun now,
              done at {until(num(found.minutes))}. Runs end earlier when they have settled.
            </p>
          )}
        </header>
        <NextRun />
        {planned > 0 && <Reach fresh={madeOf(rows)} />}
        {(found?.warnings ?? []).filter((w) => w.code !== "no_runs").length > 0 && planned > 0 && (
          <ul className="flex flex-col gap-1" aria-label="What the plan lacks">
            {found?.warnings
              ?.filter((w) => w.code !== "no_runs")
              .map((w) => (
                <li key={w.code} className="border-l-4 border-warning pl-2 text-body" data-warning={w.code}>
                  <strong>
                    <Said text={w.what} />.
                  </strong>{" "}
                  <Said text={w.do} />
                  {w.code === "case_not_confirmed" && (
                    <span className="ml-2">
                      <Button
                        small
                        onClick={() =>
                          edit("confirm the case", (d) => {
                            if (d.plan) d.plan.case_confirmed = found?.case_identity ?? "";
                          })
                        }
                      >
                        Yes, this is the case
                      </Button>
                    </span>
                  )}
                </li>
              ))}
          </ul>
        )}
        {planned > 0 && found ? (
          <>
            <RunSheet sheet={found} />
            <Orders fresh={!(found.lines ?? []).some((l) => l.done)} />
          </>
        ) : planned > 0 ? (
          sheet.error ? (
            <p role="alert" className="text-small text-error">
              The run sheet cannot be made: {sheet.error.message}
            </p>
          ) : (
            <Working words="The run sheet is being worked out …" />
          )
        ) : (
          <Empty title="Nothing is planned yet">
            <p>
              Choose the layouts and the protocol at the right and make the run sheet; or let a design make the layouts that a
              question needs.
            </p>
          </Empty>
        )}
        <ControlDrift />
        <Designs suggested={found?.suggested ?? ""} />
        <SensorMap />
      </div>
      <aside
        aria-label="The plan"
        className="no-print flex w-[360px] shrink-0 flex-col gap-5 overflow-y-auto border-l border-base-content bg-paper p-4 max-lg:w-full max-lg:border-t max-lg:border-l-0"
      >
        <PlanMaker suggested={found?.suggested ?? ""} />
        <Guess />
        <section>
          <Head remark="a change makes the next version">
            <Term t="protocol">Protocol</Term>
          </Head>
          <ProtocolPanel used={used} />
        </section>
      </aside>
    </div>
  );
}

const until = (minutes: number) =>
  new Date(Date.now() + minutes * 60_000).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hour12: false });
