import { useState } from "react";
import type { Verdict } from "@/shared/api/hooks";
import { Bars } from "@/shared/charts/Bars";
import { Figure } from "@/shared/charts/Figure";
import { Scatter } from "@/shared/charts/Scatter";
import { Head, Segments } from "@/shared/ui/bits";
import { channelWords, unitKind } from "@/shared/ui/channels";
import { useHeat } from "@/shared/units/heat";
import { useUnits } from "@/shared/units/units";
import { figureOf, LOADS, leading, SIGN, saidOf, WORDS } from "./words";

/** Every figure and every comparison, null results too. */
export function Tables({ v, share, onShare }: { v: Verdict; share: number; onShare: (share: number) => void }) {
  return (
    <>
      <h1 className="text-[22px]">All figures</h1>
      <Sortable v={v} />
      <ByLoad v={v} />
      <Balance v={v} share={share} onShare={onShare} />
      <Pairs v={v} />
      <Forecasts v={v} />
    </>
  );
}

/** Sorts by a column; a rule between two rows only where a difference is shown, so that ties stay ties. */
function Sortable({ v }: { v: Verdict }) {
  const units = useUnits();
  const heat = useHeat();
  const channels = [...new Set(v.figures.map((f) => f.channel))].filter((c) => leading(v).includes(c) || c.startsWith("air_"));
  const [by, setBy] = useState<string | null>(null);
  const names = [...new Set(v.figures.map((f) => f.layout))];
  const value = (name: string) => (by ? (figureOf(v, name, by)?.value ?? Number.POSITIVE_INFINITY) : 0);
  const rows = by ? [...names].sort((a, b) => value(a) - value(b)) : names;
  const tie = (name: string, i: number) => {
    const before = rows[i - 1];
    if (!by || !before) return null;
    const said = saidOf(v.pairs, name, before, by);
    return said && (said.word === "no_difference" || said.word === "cannot_tell") ? said.word : null;
  };
  return (
    <section className="flex flex-col gap-1">
      <Head remark={by ? `by ${channelWords(by)}; joined rows are not told apart` : "in the rack's order"}>Layouts</Head>
      <table className="text-[13.5px]" aria-label="Sortable figures">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">
              <button type="button" className="cursor-pointer underline" onClick={() => setBy(null)}>
                layout
              </button>
            </th>
            {channels.map((c) => (
              <th key={c} className="text-right font-normal" aria-sort={by === c ? "ascending" : "none"}>
                <button type="button" className="cursor-pointer underline" onClick={() => setBy(c)}>
                  {channelWords(c)}
                  {heat.basis(c)}
                </button>
              </th>
            ))}
            <th className="pl-4 font-normal">{by ? "against the row above" : ""}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((name, i) => {
            const joined = tie(name, i);
            return (
              <tr key={name} className={joined ? "" : "border-t hairline"} data-sorted={name} data-tie={joined ?? ""}>
                <td className="py-1 font-semibold">{name}</td>
                {channels.map((c) => {
                  const f = figureOf(v, name, c);
                  return (
                    <td key={c} className={`py-1 pl-3 text-right font-mono whitespace-nowrap ${f?.at_limit ? "hatched" : ""}`}>
                      {f ? `${heat.text(c, f.value)} ±${units.text(unitKind(c), f.band, 1)}` : "–"}
                    </td>
                  );
                })}
                <td className="pl-4 text-faint">{joined ? `${SIGN[joined]} ${WORDS[joined]}` : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** One figure under every load, since the best may be another for each. */
function ByLoad({ v }: { v: Verdict }) {
  const units = useUnits();
  const heat = useHeat();
  const channels = [...new Set(v.loads.flatMap((l) => l.rows.map((r) => r.channel)))].slice(0, 4);
  const [chosen, setChosen] = useState("cpu_package_c");
  if (v.loads.length < 2) return null;
  const channel = channels.includes(chosen) ? chosen : (channels[0] ?? "");
  const names = [...new Set(v.loads.flatMap((l) => l.rows.map((r) => r.layout)))];
  return (
    <section className="flex flex-col gap-1.5">
      <Head
        remark={
          <Segments
            label="Which figure"
            value={channel}
            choices={channels.map((c) => ({ value: c, words: channelWords(c) }))}
            onChange={setChosen}
          />
        }
      >
        Load by load
      </Head>
      <table className="text-[13.5px]" aria-label="Load by load">
        <thead>
          <tr className="text-left text-faint">
            <th className="pr-3 font-normal">layout</th>
            {v.loads.map((l) => (
              <th key={l.load} className="pr-5 font-normal">
                {LOADS[l.load] ?? l.load}, {l.runs} runs
                <strong className="block text-base-content" data-best-of={l.load}>
                  {l.best[channel] ? `best ${l.best[channel]}` : "none is shown best"}
                </strong>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name} className="border-t hairline">
              <td className="py-0.5 font-semibold">{name}</td>
              {v.loads.map((l) => {
                const r = l.rows.find((x) => x.layout === name && x.channel === channel);
                return (
                  <td key={l.load} className="py-0.5 pr-5 font-mono whitespace-nowrap" data-load={`${l.load} ${name} ${channel}`}>
                    {r ? `${heat.text(channel, r.value)} ±${units.text(unitKind(channel), r.band, 1)}` : "–"}
                    {r?.word && (
                      <span className="ml-2 font-sans text-faint">
                        {SIGN[r.word]} {WORDS[r.word]}
                      </span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-[12.5px] text-faint">
        Words are against {v.reference}. A best is named only where it is shown to be better than every other under that load.
      </p>
    </section>
  );
}

function Balance({ v, share, onShare }: { v: Verdict; share: number; onShare: (share: number) => void }) {
  const units = useUnits();
  const k = units.unit("difference");
  const spots = v.spreads.flatMap((s) => {
    const cpu = figureOf(v, s.layout, "cpu_package_c");
    const card = figureOf(v, s.layout, "card_core_c");
    return cpu && card
      ? [
          {
            name: s.layout,
            x: cpu.value,
            y: card.value,
            xBand: cpu.band,
            yBand: card.band,
            kept: true,
            chosen: s.layout === v.chosen,
          },
        ]
      : [];
  });
  const number = (value: number | null, digits = 1) => (value === null ? "–" : units.text("difference", value, digits));
  const plain = (value: number | null, digits: number) => (value === null ? "–" : value.toFixed(digits));
  const head = [
    "layout",
    `gap, ${k}`,
    `mean, ${k}`,
    "processor, K/W",
    "card, K/W",
    "K m³/h per W",
    `front to rear, ${k}`,
    `cores, ${k}`,
    "processor could be given",
  ];
  const rows = v.spreads.map((s) => [
    s.layout,
    number(s.gap_k),
    number(s.mean_k),
    plain(s.cpu_k_per_w, 3),
    plain(s.card_k_per_w, 3),
    plain(s.cpu_k_m3h_per_w, 0),
    number(s.front_rear_k),
    number(s.cores_k),
    s.cpu_headroom
      ? `${Math.round(s.cpu_headroom.most_power_w)} W${s.cpu_headroom.most_clock_mhz ? `, about ${s.cpu_headroom.most_clock_mhz} MHz` : ""}`
      : "–",
  ]);
  return (
    <section className="flex flex-col gap-3">
      <div className="grid grid-cols-2 items-start gap-6 max-xl:grid-cols-1">
        {spots.length > 1 && (
          <Figure
            title="Balance of processor and card"
            remark="on the dotted line both are equally warm"
            name="balance"
            table={{ head, rows }}
          >
            <Scatter
              spots={spots}
              level
              x={{ words: "processor over room", kind: "difference" }}
              y={{ words: "card over room", kind: "difference" }}
            />
          </Figure>
        )}
        {v.spreads.some((x) => x.cpu_k_per_w !== null) && (
          <Figure
            title="Kelvin per watt"
            remark="rises by the power that made them"
            name="kelvin-per-watt"
            table={{
              head: ["layout", "processor, K/W", "card, K/W"],
              rows: v.spreads.map((x) => [x.layout, plain(x.cpu_k_per_w, 3), plain(x.card_k_per_w, 3)]),
            }}
          >
            <Bars
              rows={v.spreads.map((x) => ({ name: x.layout, values: [x.cpu_k_per_w, x.card_k_per_w] }))}
              series={["processor", "card"]}
              digits={3}
              label="Kelvin per watt of processor and card"
            />
          </Figure>
        )}
      </div>
      <label className="flex items-center gap-3 text-[13px]">
        <span>Mean of both: the processor counts</span>
        <input
          type="range"
          className="range range-xs w-48"
          min={0}
          max={100}
          step={5}
          value={Math.round(share * 100)}
          data-share=""
          onChange={(e) => onShare(Number(e.target.value) / 100)}
        />
        <span className="font-mono">{Math.round(share * 100)} %</span>
        <span className="text-faint">shown beside both, never instead of them</span>
      </label>
      <div className="overflow-x-auto">
        <table className="w-full text-[13px]" aria-label="Spreads and normalised figures">
          <thead>
            <tr className="text-left text-faint">
              {head.map((h) => (
                <th key={h} className="pr-3 align-bottom font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {v.spreads.map((s, i) => (
              <tr key={s.layout} className="border-t hairline" data-spread={s.layout}>
                {rows[i]?.map((value, j) => (
                  <td
                    key={head[j]}
                    className={`py-0.5 pr-3 ${j ? "font-mono" : "font-semibold"}`}
                    title={j === 1 ? `${s.cpu_worth}. ${s.card_worth}.` : undefined}
                  >
                    {value}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-[12.5px] text-faint">
        Air through the case is forecast. What a part could be given is reckoned to its limit in the worst room, the rise in
        proportion to power and power with the cube of the clock, in steps of 100 MHz.
      </p>
    </section>
  );
}

function Pairs({ v }: { v: Verdict }) {
  const units = useUnits();
  const [all, setAll] = useState(false);
  const rows = v.pairs.filter(
    (p) => all || leading(v).includes(p.channel) || p.channel.endsWith("_w") || p.channel.endsWith("_mhz"),
  );
  return (
    <section className="flex flex-col gap-1">
      <Head
        remark={
          <button type="button" className="cursor-pointer underline" onClick={() => setAll(!all)}>
            {all ? "leading figures only" : `all ${v.pairs.length}`}
          </button>
        }
      >
        Every comparison
      </Head>
      <table className="w-full text-[13px]" aria-label="Every comparison">
        <thead>
          <tr className="text-left text-faint">
            <th className="pr-3 font-normal">layout</th>
            <th className="pr-3 font-normal">against</th>
            <th className="pr-3 font-normal">what</th>
            <th className="text-right font-normal">difference</th>
            <th className="pl-4 font-normal">word</th>
            <th className="pl-4 font-normal">doubts</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((p) => {
            const kind = unitKind(p.channel);
            return (
              <tr
                key={`${p.a}${p.b}${p.channel}`}
                className="border-t hairline align-top"
                data-pair={`${p.b} ${p.a} ${p.channel}`}
                data-word={p.word}
              >
                <td className="py-0.5 font-semibold">{p.b}</td>
                <td className="py-0.5">{p.a}</td>
                <td className="py-0.5">{channelWords(p.channel)}</td>
                <td className={`py-0.5 pl-3 text-right font-mono whitespace-nowrap ${p.at_limit ? "hatched" : ""}`}>
                  {p.difference_k === null
                    ? "–"
                    : `${units.signed(kind, p.difference_k, 1)} ±${units.text(kind, p.expanded_uncertainty_k ?? 0, 1)} ${kind === "level" ? "dB" : units.unit(kind)}`}
                </td>
                <td className="py-0.5 pl-4 whitespace-nowrap">
                  {p.context ? (
                    "context only"
                  ) : (
                    <>
                      <span aria-hidden="true">{SIGN[p.word]}</span> {WORDS[p.word]}
                      {p.tell && <span className="text-faint">, {p.tell.repeats} runs of each would tell</span>}
                    </>
                  )}
                </td>
                <td className="py-0.5 pl-4 text-[12.5px] text-faint">{p.confounders.join("; ")}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function Forecasts({ v }: { v: Verdict }) {
  const units = useUnits();
  const surprises = v.scores.rows.filter((r) => r.surprise).length;
  return (
    <section className="flex flex-col gap-1" data-surprises={surprises}>
      <Head remark={surprises ? `${surprises} surprise${surprises === 1 ? "" : "s"}` : "no surprises"}>
        Forecast against measured
      </Head>
      {v.scores.guess_says && (
        <p className="text-[14px]" data-guess={v.scores.guess ?? ""}>
          {v.scores.guess_says} {v.scores.guess_words && <q>{v.scores.guess_words}</q>}
        </p>
      )}
      <table className="text-[13px]">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">layout</th>
            <th className="font-normal">what</th>
            <th className="text-right font-normal">forecast</th>
            <th className="text-right font-normal">measured</th>
            <th className="text-right font-normal">measured less forecast</th>
            <th className="pl-4 font-normal" />
          </tr>
        </thead>
        <tbody>
          {v.scores.rows.map((r) => {
            const kind = unitKind(r.channel);
            return (
              <tr key={`${r.layout}${r.channel}`} className="border-t hairline" data-score={`${r.layout} ${r.channel}`}>
                <td className="py-0.5 font-semibold">{r.layout}</td>
                <td>{channelWords(r.channel)}</td>
                <td className="text-right font-mono">
                  {units.text(kind, r.forecast_k, 1)} ±{units.text(kind, r.forecast_band_k, 1)}
                </td>
                <td className="pl-3 text-right font-mono">
                  {units.text(kind, r.measured_k, 1)} ±{units.text(kind, r.measured_band_k, 1)}
                </td>
                <td className="pl-3 text-right font-mono">{units.signed(kind, r.residual_k, 1)}</td>
                <td className="pl-4">{r.surprise ? `surprise: ${Math.abs(r.z).toFixed(1)} standard uncertainties` : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {v.checked.length > 0 && (
        <>
          <Head remark="of the original">Check numbers</Head>
          <ul className="text-[13px]">
            {v.checked.map((c) => (
              <li
                key={`${c.layout}${c.channel}`}
                className="border-b hairline py-0.5"
                data-check={`${c.layout} ${c.channel}`}
                data-within={String(c.within)}
              >
                {c.layout}, {channelWords(c.channel)}: original {units.text(unitKind(c.channel), c.expected, 1)} ±
                {units.text(unitKind(c.channel), c.expected_band, 1)};{" "}
                {c.value === null
                  ? "not run yet"
                  : `here ${units.text(unitKind(c.channel), c.value, 1)} ±${units.text(unitKind(c.channel), c.band ?? 0, 1)}, ${c.within ? "they agree" : "they do not agree"}`}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
