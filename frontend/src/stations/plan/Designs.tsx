import { useState } from "react";
import type { JobDoc, Schemas } from "@/shared/api/client";
import { plannedRuns, useGenerate, useTemplates } from "@/shared/api/live";
import { latestProtocols } from "@/shared/job/plan";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Select } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { DESIGNS, FACES, FACTORS } from "@/shared/words/words";

type Factor = Schemas["FactorIn"];
type Design = Schemas["GenerateIn"]["design"];

const TWO = ["before_after", "bundle"];
const KINDS = FACTORS;

/** Layouts that a question needs, made from a starting layout; the forecast says beforehand what each change will do. */
export function Designs({ suggested }: { suggested: string }) {
  const { document, edit } = useJob();
  const { layoutId } = useWorkbench();
  const templates = useTemplates();
  const ask = useGenerate();
  const [design, setDesign] = useState<Design>("one_at_a_time");
  const [target, setTarget] = useState("");
  const [factors, setFactors] = useState<Factor[]>([]);
  const start = layoutId;
  const others = (document.layouts ?? []).filter((x) => x.id !== start);
  const two = TWO.includes(design);
  const answer = ask.data;
  const known = (document.layouts ?? []).length;
  const propose = () =>
    ask.mutate({ document, design, start, target: two ? target || others[0]?.id || null : null, factors: two ? [] : factors });
  const takeUp = async () => {
    if (!answer) return;
    const own = latestProtocols(document);
    const name = document.plan?.protocol ?? suggested;
    const protocol = own.find((p) => p.id === name) ?? templates.data?.find((t) => t.id === name);
    if (!protocol) return;
    const runs = await plannedRuns({ order: answer.order, protocol, control: start, repeats: 1, shuffle: "as_listed", seed: 1 });
    edit("take up the design", (d: JobDoc) => {
      d.layouts = [...(d.layouts ?? []), ...answer.layouts];
      if (!(d.protocols ?? []).some((p) => p.id === protocol.id)) d.protocols = [...(d.protocols ?? []), protocol];
      d.plan = { ...(d.plan ?? {}), protocol: protocol.id, control: start, repeats: 1, runs };
    });
    ask.reset();
  };
  return (
    <section
      className="no-print flex flex-col gap-3 rounded-box border border-base-content bg-paper p-4"
      aria-label="Layouts from changes"
    >
      <Head remark={`starting from layout ${start}`}>Layouts that a question needs</Head>
      <div className="flex flex-wrap items-end gap-3">
        <Select label="Design" value={design} choices={DESIGNS} onChange={(v) => setDesign(v as Design)} />
        {two && (
          <Select
            label="and layout"
            value={target || others[0]?.id || ""}
            choices={others.map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }))}
            onChange={setTarget}
          />
        )}
        <p className="pb-1 text-body text-faint">{DESIGNS.find((d) => d.value === design)?.why}</p>
      </div>
      {!two && <Factors factors={factors} onChange={setFactors} many={design === "grid"} />}
      {ask.error && (
        <p role="alert" className="text-small text-error">
          {ask.error.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button strong={!answer} disabled={ask.isPending || (!two && !factors.length) || known === 0} onClick={propose}>
          {ask.isPending ? "Working it out …" : "Propose the layouts"}
        </Button>
        {answer && (
          <Button strong onClick={() => void takeUp()}>
            Take up {answer.layouts.length} new {answer.layouts.length === 1 ? "layout" : "layouts"} and plan{" "}
            {answer.order.length} runs
          </Button>
        )}
      </div>
      {answer && <Proposal answer={answer} />}
    </section>
  );
}

function Proposal({ answer }: { answer: Schemas["GeneratedOut"] }) {
  const units = useUnits();
  const signed = (v: number | null) =>
    v === null ? "" : `${v >= 0 ? "+" : "−"}${units.text("difference", Math.abs(v))} ${units.unit("difference")}`;
  return (
    <div className="flex flex-col gap-2 text-small" data-proposed={answer.order.length}>
      <p>
        Runs: <span className="font-mono font-semibold">{answer.order.join(" ")}</span>
      </p>
      <ul>
        {answer.layouts.map((x) => (
          <li key={x.id}>
            <span className="font-mono font-semibold">{x.id}</span> {x.name}
          </li>
        ))}
      </ul>
      {answer.predicted.length > 0 && (
        <table className="w-full max-w-xl">
          <caption className="text-left text-faint">
            What the forecast expects of each change, and of changes acting together
          </caption>
          <thead>
            <tr className="text-left text-faint">
              <th className="font-normal">change</th>
              <th className="text-right font-normal">processor</th>
              <th className="text-right font-normal">card</th>
            </tr>
          </thead>
          <tbody>
            {answer.predicted.map((p) => (
              <tr key={p.words.join()} className="border-t hairline" data-effect={p.words.length}>
                <td className="py-0.5">{p.words.length > 1 ? `${p.words.join(" with ")}, beyond their sum` : p.words[0]}</td>
                <td className="origin-forecast text-right font-mono">{signed(p.cpu_k)}</td>
                <td className="origin-forecast text-right font-mono">{signed(p.card_k)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Factors({ factors, onChange, many }: { factors: Factor[]; onChange: (f: Factor[]) => void; many: boolean }) {
  const { document } = useJob();
  const mounts = (document.case.mounts ?? []).map((m) => ({ value: m.id, words: m.id.toUpperCase() }));
  const set = (i: number, part: Partial<Factor>) => onChange(factors.map((f, k) => (k === i ? { ...f, ...part } : f)));
  const fresh = (): Factor => ({ kind: "flip", at: mounts[0]?.value ?? "", value: "", values: [] });
  return (
    <div className="flex flex-col gap-2">
      {factors.map((f, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a change has no identity but its place in the list
        <div key={i} className="flex flex-wrap items-end gap-3" data-factor={i}>
          <Select
            label={`Change ${i + 1}`}
            value={f.kind}
            choices={KINDS}
            onChange={(kind) =>
              set(i, {
                kind: kind as Factor["kind"],
                at: kind === "panel" ? "front" : (mounts[0]?.value ?? ""),
                value: kind === "speed" ? "60" : kind === "cooler_turned" ? "up" : "",
              })
            }
          />
          {["flip", "fan", "unplug"].includes(f.kind) && (
            <Select label="Mount" value={f.at ?? ""} choices={mounts} onChange={(at) => set(i, { at })} />
          )}
          {f.kind === "ways" && (
            <label className="flex flex-col gap-0.5 text-fine text-faint">
              Mounts, comma between
              <input
                className="input input-sm w-36 text-base-content"
                value={f.at ?? ""}
                onChange={(e) => set(i, { at: e.target.value.toLowerCase() })}
              />
            </label>
          )}
          {f.kind === "panel" && (
            <Select
              label="Face"
              value={f.at ?? ""}
              choices={FACES}
              onChange={(at) => set(i, { at, values: many ? ["fitted", "removed"] : [] })}
            />
          )}
          {f.kind === "speed" && (
            <label className="flex flex-col gap-0.5 text-fine text-faint">
              {many ? "Speeds, comma between" : "Speed, %"}
              <input
                className="input input-sm w-32 text-base-content"
                value={many ? (f.values?.join(",") ?? "") || (f.value ?? "") : (f.value ?? "")}
                onChange={(e) =>
                  many
                    ? set(i, { values: e.target.value.split(","), value: e.target.value })
                    : set(i, { value: e.target.value, values: [] })
                }
              />
            </label>
          )}
          {f.kind === "cooler_turned" && (
            <Select
              label="Way"
              value={f.value ?? "up"}
              choices={["rear", "up", "front", "toward", "away"].map((x) => ({ value: x, words: x }))}
              onChange={(value) => set(i, { value })}
            />
          )}
          <Button small onClick={() => onChange(factors.filter((_, k) => k !== i))}>
            remove
          </Button>
        </div>
      ))}
      <div>
        <Button small onClick={() => onChange([...factors, fresh()])}>
          Add a change
        </Button>
      </div>
    </div>
  );
}
