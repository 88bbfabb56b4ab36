import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type Unit, useHandIn, useMakeUp, useUnitBatch } from "@/shared/api/build";
import type { Schemas } from "@/shared/api/client";
import { Control } from "@/shared/charts/Control";
import { Figure } from "@/shared/charts/Figure";
import { Button, Head, Select, TextField, Working } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { LogAndRoom } from "@/shared/ui/LogAndRoom";
import { kindOf, Outcome } from "@/shared/ui/Outcome";
import { Term } from "@/shared/ui/Term";
import { useUnits } from "@/shared/units/units";
import { chanceWords } from "@/shared/words/chance";
import { CAUTIONS, channelWords, said, UNIT_CAUSES, UNIT_VERDICTS } from "@/shared/words/words";
import { ManyUnits } from "./ManyUnits";

type Result = Unit["result"];

/** Units of one kind: a short run each, held against the reference runs of this layout, with what is likely wrong. */
export function Units({ job, layout }: { job: number; layout: string }) {
  const { data, error } = useUnitBatch(job, layout);
  const units = useUnits();
  const [chosen, setChosen] = useState<number | null>(null);
  if (error) return <p role="alert">No answer: {error.message}</p>;
  if (!data) return <Working words="Units are being looked up …" />;
  const { units: rows, batch } = data;
  const unitOf = (unit: string) => (unit === "K" ? units.unit("difference") : unit);
  const shown = rows.find((u) => u.id === chosen) ?? rows[rows.length - 1];
  return (
    <section className="flex flex-col gap-5" data-units={rows.length}>
      <HandIn job={job} layout={layout} onDone={setChosen} />
      <ManyUnits job={job} layout={layout} known={rows.map((u) => u.serial)} />
      {rows.length > 0 && (
        <>
          <div className="flex flex-col gap-1">
            <Head remark={`${batch.passed} passed, ${batch.to_look_at} to be looked at, ${batch.failed} failed`}>
              {rows.length} {rows.length === 1 ? "unit" : "units"}
            </Head>
            <ul className="flex flex-col">
              {rows.map((u) => (
                <li key={u.id} className="border-b hairline" data-unit={u.serial} data-verdict={u.result.verdict}>
                  <button
                    type="button"
                    aria-pressed={u.id === shown?.id}
                    className={`grid w-full cursor-pointer grid-cols-[8rem_8rem_1fr] gap-3 py-1.5 pl-2 text-left text-small max-sm:grid-cols-2 ${
                      u.id === shown?.id ? "border-l-4 border-base-content bg-paper" : ""
                    }`}
                    onClick={() => setChosen(u.id)}
                  >
                    <span className="truncate font-mono">{u.serial}</span>
                    <strong
                      className={u.result.verdict === "fail" ? "text-error" : u.result.verdict === "look" ? "text-warning" : ""}
                    >
                      {said(UNIT_VERDICTS, u.result.verdict)}
                    </strong>
                    <span className="max-sm:col-span-2">{likeliest(u.result)}</span>
                  </button>
                </li>
              ))}
            </ul>
          </div>
          {shown && <OneUnit unit={shown} job={job} />}
          <p className="text-small text-faint">
            <Term t="chart" />, unit less reference.
          </p>
          <div className="grid gap-4 lg:grid-cols-2">
            {batch.charts.map((c) => (
              <Figure
                key={c.channel}
                name={`control chart ${c.channel}`}
                title={channelWords(c.channel)}
                remark={
                  c.sigma === null
                    ? `unit less reference, ${unitOf(c.unit)}; limits of its own from 8 units on`
                    : `unit less reference, ${unitOf(c.unit)}; shaded: ±3 of the batch's own scatter`
                }
                table={{
                  head: ["unit", `difference, ${unitOf(c.unit)}`],
                  rows: c.points.map((p) => [p.serial, units.text(kindOf(c.unit), p.difference, 2)]),
                }}
              >
                <Control
                  words={`${channelWords(c.channel)}, unit after unit`}
                  centre={c.centre}
                  sigma={c.sigma}
                  text={(v) => units.text(kindOf(c.unit), v, 1)}
                  points={c.points.map((p) => ({
                    words: p.serial,
                    value: p.difference,
                    outside: p.outside,
                    failed: rows.find((u) => u.serial === p.serial)?.result.verdict === "fail",
                  }))}
                />
              </Figure>
            ))}
          </div>
        </>
      )}
    </section>
  );
}

const likeliest = (r: Result) => {
  const first = r.diagnosis[0];
  return first ? `${first.words}, ${chanceWords(first.chance_pct / 100)}` : "";
};

function HandIn({ job, layout, onDone }: { job: number; layout: string; onDone: (id: number) => void }) {
  const hand = useHandIn(job, layout);
  const made = useMakeUp(job, layout);
  const [serial, setSerial] = useState("");
  const [signedBy, setSignedBy] = useState("");
  const [roomC, setRoomC] = useState<number | null>(null);
  const [file, setFile] = useState<File | null>(null);
  const [cause, setCause] = useState("none");
  const problem = hand.error ?? made.error;
  return (
    <div className="flex flex-col gap-3">
      <Head remark="some ten minutes at full load, from cold">A unit's short run</Head>
      <Caution>{CAUTIONS.run}</Caution>
      <div className="flex flex-wrap items-end gap-3">
        <TextField label="Serial number" value={serial} onChange={setSerial} />
        <TextField label="Signed by" value={signedBy} onChange={setSignedBy} />
        <LogAndRoom onFile={setFile} roomC={roomC} onRoom={setRoomC} />
        <Button
          strong
          disabled={!file || !serial.trim() || hand.isPending}
          onClick={() => file && hand.mutate({ file, serial, signedBy, roomC }, { onSuccess: (u) => onDone(u.id) })}
        >
          {hand.isPending ? "Holding it against the reference …" : "Hold it against the reference"}
        </Button>
      </div>
      {problem && (
        <p role="alert" className="text-small text-error">
          {problem.message}
        </p>
      )}
      <details className="text-small">
        <summary className="cursor-pointer">Try it with a made-up unit</summary>
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <Select
            label="What is wrong with it"
            value={cause}
            choices={Object.entries(UNIT_CAUSES).map(([value, words]) => ({ value, words }))}
            onChange={setCause}
          />
          <Button
            disabled={made.isPending}
            onClick={() => made.mutate(cause as Schemas["MadeUpIn"]["cause"], { onSuccess: (u) => onDone(u.id) })}
          >
            {made.isPending ? "It runs …" : "Make one up and run it"}
          </Button>
        </div>
      </details>
    </div>
  );
}

function OneUnit({ unit, job }: { unit: Unit; job: number }) {
  const r = unit.result;
  const units = useUnits();
  return (
    <article className="flex flex-col gap-3 rounded-box border hairline bg-paper p-3" data-result={r.verdict}>
      <header className="flex flex-wrap items-baseline justify-between gap-3">
        <h2 className="text-lead">
          {unit.serial}: {said(UNIT_VERDICTS, r.verdict)}
        </h2>
        <a
          className="text-small underline underline-offset-2"
          href={`/api/units/${unit.id}/certificate.pdf?units=${units.system}`}
        >
          certificate
        </a>
      </header>
      <Outcome result={r} less="unit less reference" />
      {r.verdict !== "pass" && (
        <p className="text-small">
          What to look at, in its order, when something is odd stands in{" "}
          <Link to="/jobs/$jobId/care" params={{ jobId: String(job) }} className="underline underline-offset-2">
            Care
          </Link>
          .
        </p>
      )}
    </article>
  );
}
