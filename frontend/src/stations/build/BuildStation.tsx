import { useState } from "react";
import { buildFile, type Sheet, useBuildSheet } from "@/shared/api/build";
import { CurveRow } from "@/shared/job/CurveRow";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Empty, Head, Segments, Select, TextField, Working } from "@/shared/ui/bits";
import { Term } from "@/shared/ui/Term";
import { hours } from "@/shared/units/hours";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { measurements } from "@/shared/words/lists";
import { CURVE_FOLLOWS, said } from "@/shared/words/words";
import { FanPanel } from "./FanPanel";
import { Drawing, Steps } from "./Steps";
import { Units } from "./Units";

type View = "steps" | "fans" | "leads" | "curves" | "parts" | "units";
const VIEWS = [
  { value: "steps" as const, words: "steps" },
  { value: "fans" as const, words: "fans" },
  { value: "leads" as const, words: "leads" },
  { value: "curves" as const, words: "curves" },
  { value: "parts" as const, words: "parts" },
  { value: "units" as const, words: "units" },
];
const LARGE = "oventa-bench-type";

/** The layout put together: one step after the other, every fan as it is seen, leads, curves, parts. */
export function BuildStation() {
  const { id, document } = useJob();
  const { layoutId, conditions } = useWorkbench();
  const units = useUnits();
  const [view, setView] = useState<View>("steps");
  const [start, setStart] = useState<string | null>(null);
  const [unit, setUnit] = useState("");
  const [large, setLarge] = useState(() => localStorage.getItem(LARGE) === "large");
  const layouts = document.layouts ?? [];
  const from = start !== layoutId && layouts.some((x) => x.id === start) ? start : null;
  const which = { job: id, layout: layoutId, start: from, unit };
  const { data, error } = useBuildSheet(which, document, conditions);
  if (!layouts.length)
    return (
      <div className="p-10">
        <Empty title="Nothing to build yet">
          <p>Draw a layout in Layouts; here it becomes a list of steps.</p>
        </Empty>
      </div>
    );
  if (error)
    return (
      <p role="alert" className="p-6">
        No sheet: {error.message}
      </p>
    );
  if (!data)
    return (
      <div className="p-6">
        <Working words="The sheet is being written …" />
      </div>
    );
  const { build } = data;
  const size = (v: boolean) => {
    localStorage.setItem(LARGE, v ? "large" : "usual");
    setLarge(v);
  };
  return (
    <div className={`mx-auto flex max-w-5xl flex-col gap-4 p-4 max-sm:p-3 ${large ? "text-lead" : ""}`} data-build={build.layout}>
      <header className="flex flex-wrap items-start justify-between gap-3">
        <div>
          <h1 className="text-figure">
            Build {build.layout}
            {build.name && `, ${build.name}`}
          </h1>
          <p className="text-body text-faint">
            {build.steps.length} steps, about {hours(build.minutes)}. The part makers' manuals and your local rules come first.
          </p>
        </div>
        <div className="no-print flex flex-wrap items-end gap-3">
          <Select
            label="From"
            value={from ?? ""}
            empty="an empty case"
            choices={layouts
              .filter((x) => x.id !== layoutId)
              .map((x) => ({ value: x.id, words: `${x.id} as it stands${x.name ? `, ${x.name}` : ""}` }))}
            onChange={(v) => setStart(v || null)}
          />
          <TextField label="Unit, where there are several" value={unit} onChange={setUnit} />
          <Segments
            label="Size of type"
            value={large ? "large" : "usual"}
            onChange={(v) => size(v === "large")}
            choices={[
              { value: "usual", words: "desk" },
              { value: "large", words: "bench, large" },
            ]}
          />
          <span className="flex gap-2 text-small">
            on paper
            <a
              className="underline underline-offset-2"
              href={buildFile(id, "sheet.pdf", layoutId, from, { paper: "A4", units: units.system })}
            >
              A4
            </a>
            <a
              className="underline underline-offset-2"
              href={buildFile(id, "sheet.pdf", layoutId, from, { paper: "Letter", units: units.system })}
            >
              Letter
            </a>
          </span>
        </div>
      </header>
      {build.impossible.length > 0 && (
        <div role="alert" className="border-l-4 border-error pl-3" data-impossible={build.impossible.length}>
          <strong>There is no order in which this goes together:</strong>
          <ul className="list-disc pl-5">
            {build.impossible.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
        </div>
      )}
      {build.forecast && <Told forecast={build.forecast} />}
      <Segments label="What is shown" value={view} choices={VIEWS} onChange={setView} />
      {view === "steps" && <Steps key={unit} sheet={data} which={which} large={large} />}
      {view === "fans" && <Fans sheet={data} />}
      {view === "leads" && <Leads sheet={data} job={id} start={from} />}
      {view === "curves" && <Curves sheet={data} job={id} start={from} />}
      {view === "parts" && <Parts sheet={data} />}
      {view === "units" && <Units key={layoutId} job={id} layout={layoutId} />}
    </div>
  );
}

type Shown = { sheet: Sheet; job: number; start: string | null };

/** What the layout is to do once it stands: what a run is held against. */
function Told({ forecast: f }: { forecast: NonNullable<Sheet["build"]["forecast"]> }) {
  const units = useUnits();
  const k = (v: number | null) => `${units.band("difference", v)} ${units.unit("difference")}`;
  return (
    <p className="text-small" data-told>
      Forecast under full load{f.learned > 0 && `, learned from ${measurements(f.learned)}`}: processor{" "}
      <span className="origin-forecast">{units.withUnit("temperature", f.cpu_c, 0)}</span> {k(f.cpu_band_k)}
      {f.card_c !== null && (
        <>
          , card <span className="origin-forecast">{units.withUnit("temperature", f.card_c, 0)}</span> {k(f.card_band_k)}
        </>
      )}
      , <span className="origin-forecast">{units.withUnit("level", f.level_dba)}</span> {units.band("level", f.band_db)} dB.
    </p>
  );
}

function Fans({ sheet }: { sheet: Sheet }) {
  return (
    <section className="flex flex-col gap-4">
      <p className="text-small text-faint">
        <Term t="intake" />, <Term t="push" />. Struts stand on the outlet side. A cross in the hub: air goes away from you; a
        dot: towards you.
      </p>
      <div className="grid gap-3 md:grid-cols-2">
        {sheet.build.fans.map((fan, i) => (
          <FanPanel key={`${fan.mount}${fan.layer}`} fan={fan} pictures={sheet.pictures[i]} />
        ))}
      </div>
      {sheet.build.radiators.map((r) => (
        <article key={r.mounts.join()} className="rounded-box border hairline bg-paper p-3">
          <h2 className="text-body">
            {r.name} at {r.mounts.map((m) => m.toUpperCase()).join(", ")}
          </h2>
          <p className="text-small">From outside in:</p>
          <ol className="list-decimal pl-5 text-small">
            {r.layers.map((x) => (
              <li key={x}>
                <Said text={x} />
              </li>
            ))}
          </ol>
          <p className="text-small">
            Tubes at the {r.tubes}. Screws: <Said text={r.screws} />.
          </p>
        </article>
      ))}
    </section>
  );
}

function Leads({ sheet, job, start }: Shown) {
  const { layout } = sheet.build;
  const units = useUnits();
  return (
    <section className="flex flex-col gap-3">
      <Head
        remark={
          <span className="flex gap-2">
            <a className="underline" href={buildFile(job, "leads.svg", layout, start, { units: units.system })}>
              SVG
            </a>
            <a className="underline" href={buildFile(job, "leads.csv", layout, start)}>
              CSV
            </a>
          </span>
        }
      >
        Map of the leads
      </Head>
      <div className="max-w-2xl">
        <Drawing svg={units.said(sheet.wiring)} words="map of the leads" wide />
      </div>
      {sheet.build.lead_faults.length > 0 && (
        <ul className="flex flex-col gap-1" aria-label="What is wrong with the leads">
          {sheet.build.lead_faults.map((f) => (
            <li key={f} className="border-l-4 border-warning pl-2 text-small" data-lead-fault>
              <Said text={f} />
            </li>
          ))}
        </ul>
      )}
      <p className="text-small text-faint">Where each lead goes is said in Layouts, under build, leads.</p>
    </section>
  );
}

function Curves({ sheet, job, start }: Shown) {
  const units = useUnits();
  const { layout, curves, pumps } = sheet.build;
  if (!curves.length)
    return (
      <p className="text-body">
        No fan of this layout follows a curve. Layouts, speeds proposes some for a load; Parts holds those that you draw.
        <Pumps pumps={pumps} />
      </p>
    );
  return (
    <section className="flex flex-col gap-3">
      <Head
        remark={
          <span className="flex gap-2">
            <a className="underline" href={buildFile(job, "curves.csv", layout, start)}>
              steps, CSV
            </a>
            <a className="underline" href={buildFile(job, "curves.json", layout, start)}>
              JSON
            </a>
          </span>
        }
      >
        Curves to type
      </Head>
      <Pumps pumps={pumps} />
      <div className="grid gap-3 md:grid-cols-2">
        {curves.map((c) => (
          <article key={`${c.group}${c.source}`} className="rounded-box border hairline bg-paper p-3" data-card={c.group}>
            <h3 className="text-body">
              {c.group}
              {c.mounts.length > 0 && `: ${c.mounts.map((m) => m.toUpperCase()).join(", ")}`}
            </h3>
            <p className="text-small">
              Follows {said(CURVE_FOLLOWS, c.source)}. Slower once {units.withUnit("difference", c.hysteresis_k, 0)} cooler;{" "}
              {c.delay_s.toFixed(0)} s through the whole range.
              {c.settles_pct !== null &&
                c.settles_pct !== undefined &&
                ` Under full load it is forecast to settle at ${c.settles_pct.toFixed(0)} %.`}
              {c.stop_below_c !== null && ` At rest below ${units.withUnit("temperature", c.stop_below_c, 0)}.`}
            </p>
            <table className="mt-1 text-small">
              <tbody>
                {c.points.map(([t, s]) => (
                  <tr key={`${t}`} className="border-t hairline">
                    <td className="pr-6 font-mono">{units.withUnit("temperature", t, 0)}</td>
                    <td className="text-right font-mono">{s.toFixed(0)} %</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {(c.warns ?? []).map((w) => (
              <p key={w} className="text-small text-warning">
                <Said text={w} />
              </p>
            ))}
            <ChangeCurve id={c.curve} />
          </article>
        ))}
      </div>
    </section>
  );
}

/** The curve itself, where its card is read; whatever follows it changes along. */
function ChangeCurve({ id }: { id: string }) {
  const { document } = useJob();
  const at = (document.curves ?? []).findIndex((c) => c.id === id);
  const curve = document.curves?.[at];
  if (!curve) return null;
  return (
    <details className="no-print mt-2 text-small" data-change={id}>
      <summary className="cursor-pointer">change this curve</summary>
      <p className="my-1 text-fine text-faint">All that follows {id} changes along, in every layout.</p>
      <CurveRow curve={curve} at={at} />
    </details>
  );
}

function Pumps({ pumps }: { pumps: Sheet["build"]["pumps"] }) {
  return pumps.map((p) => (
    <span key={p.of} className="mt-2 block text-small" data-pump={p.curve ?? p.pct}>
      Pump of {p.of}:{" "}
      {p.curve ? `on curve ${p.curve}; constant is safer` : `constant, ${p.pct.toFixed(0)} %, with an alarm on its speed`}.
    </span>
  ));
}

function Parts({ sheet }: { sheet: Sheet }) {
  const { build } = sheet;
  return (
    <section className="grid gap-6 md:grid-cols-2">
      <div className="flex flex-col gap-2">
        <Head>To be had</Head>
        {build.shopping.length === 0 && <p className="text-small">All is on hand.</p>}
        {build.shopping.map((b) => (
          <p key={b.part} className="text-small" data-buy={b.part}>
            <span className="font-mono">{b.count} ×</span> {b.name},{" "}
            {b.price === null ? "price not known" : `${b.price.toFixed(2)} each`}
            {(b.instead ?? []).length > 0 && <span className="block text-fine text-faint">or {b.instead?.join("; or ")}</span>}
          </p>
        ))}
        {build.left_over.length > 0 && <Head level={3}>Left over</Head>}
        {build.left_over.map((b) => (
          <p key={b.part} className="text-small">
            <span className="font-mono">{b.count} ×</span> {b.name}
          </p>
        ))}
      </div>
      <div className="flex flex-col gap-2">
        <Head>On the table before you begin</Head>
        <ul className="list-disc pl-5 text-small">
          {build.kit.map((x) => (
            <li key={x}>
              <Said text={x} />
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
