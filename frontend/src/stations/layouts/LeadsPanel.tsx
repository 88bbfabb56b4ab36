import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useSheet } from "@/shared/api/hooks";
import { layerOf, layoutOf, setting } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { has } from "@/shared/words/lists";
import { CAUTIONS, HEADROOM, usual, within } from "@/shared/words/words";

type Plug = Schemas["PlugDoc"];
const WORDS = HEADROOM;
const TONE = { carries: "", near: "text-warning", overloaded: "text-error", not_known: "text-faint" } as const;

/** Which lead hangs on which header, what each header carries, and whether the leads reach. */
export function LeadsPanel({ layout }: { layout: LayoutDoc }) {
  const { document, edit } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const { data } = useSheet({ document, layout: layout.id, conditions });
  const board = document.parts?.boards?.find((b) => b.id === setting(document, layout, "board"));
  const ends = [
    ...(layout.fans ?? [])
      .filter((f) => f.state !== "unplugged")
      .map((f) => ({
        of: f.mount,
        layer: layerOf(f),
        words: `fan at ${f.mount.toUpperCase()}${layerOf(f) === "inner" ? " inner" : ""}`,
      })),
    ...others(document, layout),
  ];
  if (!board)
    return (
      <section className="flex flex-col gap-3">
        <Head>Leads and headers</Head>
        <p className="text-small">
          No board is on the table yet. Take one from the tray in Parts, under Board, or type the headers of your own; then each
          lead can be given its header here.
        </p>
        <Caution>{CAUTIONS.lead}</Caution>
      </section>
    );
  return (
    <section className="flex flex-col gap-3" data-leads={layout.id}>
      <Head remark={board.name || board.id}>Leads and headers</Head>
      <div className="flex flex-col gap-2">
        {ends.map((e) => (
          <Lead key={e.of + e.layer} layout={layout} {...e} headers={(board.headers ?? []).map((h) => h.id)} />
        ))}
      </div>
      {has(data?.to_share) && (
        <div className="flex flex-wrap items-baseline gap-2">
          <button
            type="button"
            className="btn btn-sm btn-primary"
            onClick={() =>
              edit("leads shared out", (d) => {
                const x = layoutOf(d, layout.id);
                if (x) x.wiring = [...(x.wiring ?? []), ...(data?.to_share ?? [])];
              })
            }
          >
            Share out {data?.to_share.length === 1 ? "the lead that is" : `the ${data?.to_share.length} leads that are`} left
          </button>
          <span className="text-fine text-faint">by currents, plugs and ways; what you chose stays</span>
        </div>
      )}
      <table className="w-full text-small">
        <thead className="text-left text-faint">
          <tr>
            <th className="font-normal">header</th>
            <th className="text-right font-normal">A of</th>
            <th className="pl-2 font-normal" />
          </tr>
        </thead>
        <tbody>
          {data?.headers.map((h) => (
            <tr key={h.header} className="border-t hairline align-top" data-header={h.header} data-verdict={h.verdict}>
              <td className="py-1 leading-snug">
                {h.header}
                <span className="block text-fine text-faint">{h.plugs.join(", ") || "nothing on it"}</span>
              </td>
              <td className="py-1 text-right font-mono whitespace-nowrap">
                {h.sum_a.toFixed(2)} <span className="text-faint">of {h.limit_a?.toFixed(2) ?? "?"}</span>
              </td>
              <td className={`py-1 pl-2 ${TONE[h.verdict]}`}>{WORDS[h.verdict]}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {has(data?.leads) && (
        <ul className="text-small">
          {data?.leads.map((l) => (
            <li key={l.name + l.header} className={l.needed_mm > l.there_mm ? "text-warning" : ""}>
              {l.name} to {l.header}: {units.withUnit("length", l.needed_mm, 0)} of {units.withUnit("length", l.there_mm, 0)}
              {(l.through ?? []).length > 1 && `, behind the board by ${l.through?.join(" and ")}`}
            </li>
          ))}
        </ul>
      )}
      <Caution>{CAUTIONS.lead}</Caution>
    </section>
  );
}

function others(document: ReturnType<typeof useJob>["document"], layout: LayoutDoc) {
  const cooler = document.parts?.coolers?.find((c) => c.id === setting(document, layout, "cooler"));
  const air = cooler?.kind === "tower" || cooler?.kind === "downdraft";
  const loops = layout.loops ?? [];
  const found: { of: string; layer: "outer" | "inner"; words: string }[] = [];
  const onCpu = loops.some((l) => (l.heat ?? ["cpu"]).includes("cpu"));
  if (air && !onCpu) found.push({ of: "cooler_fan", layer: "outer", words: "the cooler's fan" });
  if ((!air && !loops.length) || onCpu) found.push({ of: "pump", layer: "outer", words: "the pump" });
  if (loops.some((l) => l.heat?.includes("card") && !l.heat.includes("cpu")))
    found.push({ of: "pump:card", layer: "outer", words: "the pump of the card's loop" });
  return found;
}

const CLOSED_LETTERS = 17; // what a closed chooser has room for beside its arrow; the list and the title have all of it
const short = (name: string) => (name.length > CLOSED_LETTERS ? `${name.slice(0, CLOSED_LETTERS - 1).trimEnd()}…` : name);

function Lead(props: { layout: LayoutDoc; of: string; layer: "outer" | "inner"; words: string; headers: string[] }) {
  const { document, edit } = useJob();
  const { layout, of, layer, words } = props;
  const own = layout.wiring?.find((p) => p.of === of && (p.layer ?? "outer") === layer);
  const hubs = document.parts?.controllers ?? [];
  const change = (next: Partial<Plug> | null) =>
    edit(`lead of ${words}`, (d) => {
      const x = layoutOf(d, layout.id);
      if (!x) return;
      const rest = (x.wiring ?? []).filter((p) => !(p.of === of && (p.layer ?? "outer") === layer));
      x.wiring = next
        ? [...rest, { header: "", ...(own ?? {}), of, ...(layer === "inner" ? { layer } : {}), ...next } as Plug]
        : rest;
    });
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-small" data-lead={of}>
      <span className="w-24">{words}</span>
      <select
        aria-label={`Header of ${words}`}
        className="select select-xs w-28"
        value={own?.header ?? ""}
        onChange={(e) => change(e.target.value ? { header: e.target.value } : null)}
      >
        <option value="">no header</option>
        {props.headers.map((h) => (
          <option key={h}>{h}</option>
        ))}
      </select>
      {own && hubs.length > 0 && (
        <select
          aria-label={`By which splitter or hub ${words} is plugged in`}
          className="select select-xs w-full min-w-40 flex-1 basis-40"
          title={hubs.find((h) => h.id === own.via)?.name ?? ""}
          value={own.via ?? ""}
          onChange={(e) => change({ via: e.target.value || null })}
        >
          <option value="">directly</option>
          {hubs.map((h) => (
            <option key={h.id} value={h.id}>
              {h.id === own.via ? short(h.name || h.id) : h.name || h.id}
            </option>
          ))}
        </select>
      )}
      {own && (
        <span className="flex items-center gap-1 text-faint">
          +
          <NumberField
            label={`Extension of ${words}`}
            compact
            kind="length"
            {...within("layouts.*.wiring.*.extension_mm")}
            value={own.extension_mm ?? usual("layouts.*.wiring.*.extension_mm")}
            onCommit={(v) => change({ extension_mm: v ?? usual("layouts.*.wiring.*.extension_mm") })}
          />
        </span>
      )}
    </div>
  );
}
