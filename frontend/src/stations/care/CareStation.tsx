import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type CareOut, useCare, useCareSettings, useNoteCare, useRecheck, useStrikeCare } from "@/shared/api/care";
import { useVerdicts } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select, Working } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { LogAndRoom } from "@/shared/ui/LogAndRoom";
import { NumberField } from "@/shared/ui/NumberField";
import { Outcome } from "@/shared/ui/Outcome";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { CARE_ITEMS, CAUTIONS, DUST, said, within } from "@/shared/words/words";

type Due = CareOut["care"]["due"][number];
type Dust = CareOut["care"]["dust"];
const STATES = { fine: "", soon: "soon", overdue: "overdue" } as const;
const today = () => new Date().toLocaleDateString("sv");

/** What the built machine needs over the years: what is due, what dust costs, what to look at when something is odd. */
export function CareStation() {
  const { id, document } = useJob();
  const { data, error } = useCare(id);
  if (error)
    return (
      <p role="alert" className="p-6">
        {error.message}
      </p>
    );
  if (!data)
    return (
      <div className="p-6">
        <Working words="What it needs is being worked out …" />
      </div>
    );
  const { care } = data;
  const overdue = care.due.filter((d) => d.state === "overdue").length;
  const name = document.layouts?.find((x) => x.id === care.layout)?.name;
  return (
    <div className="mx-auto flex max-w-5xl flex-col gap-6 p-4 max-sm:p-3" data-care={care.layout}>
      <header>
        <h1 className="text-figure">
          {overdue ? `${overdue} ${overdue === 1 ? "thing is" : "things are"} overdue` : "Nothing is overdue"}
        </h1>
        <p className="text-body text-faint">
          Layout {care.layout}
          {name && `, ${name}`},{" "}
          {data.built_assumed
            ? `counted from ${data.built_on}, the job's first day: say when it was built`
            : `as it stands since ${data.built_on}`}
          . Intervals are common practice; your parts' sheets come first.
        </p>
      </header>
      <Settings job={id} data={data} />
      <div className="grid items-start gap-6 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <div className="flex flex-col gap-6">
          <DueList job={id} due={care.due} />
          <Recheck job={id} />
          <Log job={id} data={data} />
        </div>
        <div className="flex flex-col gap-6">
          <Dusty rows={care.clogged} />
          <Symptoms symptoms={care.symptoms} />
          {care.residual.length > 0 && (
            <section className="flex flex-col gap-1" data-residual={care.residual.length}>
              <Head>What air does not solve</Head>
              {care.residual.map((r) => (
                <p key={r} className="text-small">
                  {r}
                </p>
              ))}
            </section>
          )}
          <Changed job={id} />
        </div>
      </div>
    </div>
  );
}

function Settings({ job, data }: { job: number; data: CareOut }) {
  const { document } = useJob();
  const set = useCareSettings(job);
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="What stands"
        value={data.care.layout}
        choices={(document.layouts ?? []).map((x) => ({ value: x.id, words: `${x.id}, ${x.name || "as drawn"}` }))}
        onChange={(layout) => set.mutate({ layout })}
      />
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        Built on
        <input
          type="date"
          className="input input-sm w-36 text-base-content"
          defaultValue={data.built_on}
          max={today()}
          onBlur={(e) => e.target.value && e.target.value !== data.built_on && set.mutate({ built_on: e.target.value })}
        />
      </label>
      <Select label="Its room" value={data.care.dust} choices={DUST} onChange={(dust) => set.mutate({ dust: dust as Dust })} />
      <a className="pb-1.5 text-small underline underline-offset-2" href={`/api/jobs/${job}/care/calendar.ics`}>
        all of it as a calendar
      </a>
      {set.error && <p role="alert">{set.error.message}</p>}
    </div>
  );
}

const often = (d: Due) => {
  const every = d.months < 24 ? `${d.months.toFixed(0)} months` : `${(d.months / 12).toFixed(0)} years`;
  return `every ${every}: ${d.because}; about ${d.minutes.toFixed(0)} min; ${d.last ? `last on ${d.last}` : "never noted"}`;
};

function DueList({ job, due }: { job: number; due: Due[] }) {
  const note = useNoteCare(job);
  const [open, setOpen] = useState<string | null>(null);
  return (
    <section className="flex flex-col">
      <Head remark="soonest first">Due</Head>
      <ul className="flex flex-col">
        {due.map((d) => {
          const key = `${d.item}${d.where}`;
          return (
            <li key={key} className="flex flex-col gap-1 border-b hairline py-2" data-due={d.item} data-state={d.state}>
              <div className="flex items-baseline gap-3">
                <span className={`w-24 shrink-0 font-mono text-small ${d.state === "overdue" ? "font-semibold text-error" : ""}`}>
                  {d.on}
                </span>
                <button
                  type="button"
                  aria-expanded={open === key}
                  className="min-w-0 flex-1 cursor-pointer text-left"
                  onClick={() => setOpen(open === key ? null : key)}
                >
                  <strong>
                    <Said text={d.words} />
                  </strong>
                  {d.where && `, ${d.where}`} {STATES[d.state] && <em className="text-small">{STATES[d.state]}</em>}
                  <span className="block text-small text-faint">{often(d)}</span>
                </button>
                <Button small disabled={note.isPending} onClick={() => note.mutate({ item: d.item, done_on: today(), note: "" })}>
                  done today
                </Button>
              </div>
              {open === key && <Caution>{said(CAUTIONS, d.caution)}</Caution>}
            </li>
          );
        })}
      </ul>
      {note.error && <p role="alert">{note.error.message}</p>}
    </section>
  );
}

function Recheck({ job }: { job: number }) {
  const check = useRecheck(job);
  const [file, setFile] = useState<File | null>(null);
  const [roomC, setRoomC] = useState<number | null>(null);
  return (
    <section className="flex flex-col gap-3">
      <Head remark="the same machine, months later">A run against the baseline</Head>
      <p className="text-small">
        The same load as then, some ten minutes from cold. It is held against this layout's valid runs at the same minute, each
        over its own room: what changed is told, and what would do that.
      </p>
      <Caution>{CAUTIONS.run}</Caution>
      <div className="flex flex-wrap items-end gap-3">
        <LogAndRoom onFile={setFile} roomC={roomC} onRoom={setRoomC} />
        <Button strong disabled={!file || check.isPending} onClick={() => file && check.mutate({ file, roomC })}>
          {check.isPending ? "Holding it against the baseline …" : "What has changed?"}
        </Button>
      </div>
      {check.error && (
        <p role="alert" className="text-small text-error">
          {check.error.message}
        </p>
      )}
      {check.data && <Outcome result={check.data} less="now less then" />}
    </section>
  );
}

function Log({ job, data }: { job: number; data: CareOut }) {
  const note = useNoteCare(job);
  const strike = useStrikeCare(job);
  const [item, setItem] = useState("filters");
  const [day, setDay] = useState(today());
  const [minutes, setMinutes] = useState<number | null>(null);
  const [words, setWords] = useState("");
  return (
    <section className="flex flex-col gap-2">
      <Head remark={`${data.entries.length} noted`}>What was done</Head>
      <div className="flex flex-wrap items-end gap-2">
        <Select
          label="What"
          value={item}
          choices={Object.entries(CARE_ITEMS).map(([value, w]) => ({ value, words: w }))}
          onChange={setItem}
        />
        <label className="flex flex-col gap-0.5 text-fine text-faint">
          On
          <input
            type="date"
            className="input input-sm w-36 text-base-content"
            value={day}
            max={today()}
            onChange={(e) => setDay(e.target.value)}
          />
        </label>
        <NumberField
          label="Minutes it took"
          digits={0}
          optional="not noted"
          value={minutes}
          {...within("ask.work_min")}
          onCommit={setMinutes}
        />
        <label className="flex flex-col gap-0.5 text-fine text-faint">
          Note
          <input
            className="input input-sm w-56 text-base-content"
            value={words}
            maxLength={500}
            onChange={(e) => setWords(e.target.value)}
          />
        </label>
        <Button
          disabled={!day || note.isPending}
          onClick={() => note.mutate({ item, done_on: day, minutes, note: words }, { onSuccess: () => setWords("") })}
        >
          Note it
        </Button>
      </div>
      <ul className="text-small">
        {data.entries.map((e) => (
          <li
            key={e.id}
            className={`flex gap-3 border-b hairline py-1 ${e.struck ? "text-faint line-through" : ""}`}
            data-entry={e.item}
          >
            <span className="font-mono">{e.done_on}</span>
            <span className="min-w-0 flex-1">
              {said(CARE_ITEMS, e.item)}
              {e.minutes !== null && `, ${e.minutes.toFixed(0)} min`}
              {e.note && `: ${e.note}`}
            </span>
            <button type="button" className="cursor-pointer underline" onClick={() => strike.mutate(e.id)}>
              {e.struck ? "count it again" : "strike it out"}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Dusty({ rows }: { rows: CareOut["care"]["clogged"] }) {
  const units = useUnits();
  if (!rows.length)
    return (
      <section>
        <Head>What dust costs</Head>
        <p className="text-small">No face has a filter: dust goes into fins and fans.</p>
      </section>
    );
  return (
    <section className="flex flex-col gap-1" data-clogged={rows.length}>
      <Head remark="forecast, filters not cleaned">What dust costs</Head>
      <table className="w-full text-small">
        <thead className="text-left text-fine text-faint">
          <tr>
            <th className="font-normal">after</th>
            <th className="text-right font-normal">processor</th>
            <th className="text-right font-normal">card</th>
            <th className="text-right font-normal">intake air</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.months} className="border-t hairline">
              <td className="py-0.5">{r.months.toFixed(1)} months</td>
              <td className="text-right font-mono">
                {units.signed("difference", r.cpu_k, 1)} {units.unit("difference")}
              </td>
              <td className="text-right font-mono">
                {r.card_k === null ? "–" : `${units.signed("difference", r.card_k, 1)} ${units.unit("difference")}`}
              </td>
              <td className="text-right font-mono">{(100 * r.intake_share).toFixed(0)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Symptoms({ symptoms }: { symptoms: CareOut["care"]["symptoms"] }) {
  const [open, setOpen] = useState("");
  const shown = symptoms.find((s) => s.id === open);
  return (
    <section className="flex flex-col gap-2">
      <Head>Something is odd</Head>
      <Select
        label="What it does"
        value={open}
        empty="choose"
        choices={symptoms.map((s) => ({ value: s.id, words: s.words }))}
        onChange={setOpen}
        wide
      />
      {shown && (
        <ol className="flex list-decimal flex-col gap-2 pl-5 text-small" data-symptom={shown.id}>
          {shown.checks.map((c) => (
            <li key={c.words}>
              <Said text={c.words} />
              {c.holds && <strong className="text-warning"> This layout's findings say so: look here first.</strong>}
              {c.caution && <Caution>{said(CAUTIONS, c.caution)}</Caution>}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** A decision that rests on other hardware than stands there now says so, and what is to be repeated. */
function Changed({ job }: { job: number }) {
  const decided = useVerdicts(job).data?.[0];
  if (!decided || decided.stale.length === 0) return null;
  return (
    <section className="flex flex-col gap-1" data-stale={decided.stale.length}>
      <Head>Changed since it was decided</Head>
      <ul className="list-disc pl-5 text-small">
        {decided.stale.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ul>
      <p className="text-small">
        Run {decided.layout} once more, and its strongest rival, then decide again in{" "}
        <Link to="/jobs/$jobId/plan" params={{ jobId: String(job) }} className="underline underline-offset-2">
          Plan
        </Link>
        .
      </p>
    </section>
  );
}
