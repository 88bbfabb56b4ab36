import { useState } from "react";
import type { Verdict } from "@/shared/api/hooks";
import { useHeat } from "@/shared/job/heat";
import { Head, Segments } from "@/shared/ui/bits";
import { channelWords, LOADS, said } from "@/shared/words/words";
import { Balance } from "./Balance";
import { Forecasts } from "./Forecasts";
import { Pairs } from "./Pairs";
import { figureOf, leading, ordered, rising, SIGN, saidOf, WORDS } from "./words";

/** Every figure and every comparison, null results too. */
export function Tables({ v, share, onShare }: { v: Verdict; share: number; onShare: (share: number) => void }) {
  return (
    <>
      <h1 className="text-figure">All figures</h1>
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
  const heat = useHeat();
  const channels = [...new Set(v.figures.map((f) => f.channel))].filter((c) => leading(v).includes(c) || c.startsWith("air_"));
  const [sort, setSort] = useState<{ by: string; worstFirst: boolean } | null>(null);
  const by = sort?.by ?? null;
  const names = [...new Set(v.figures.map((f) => f.layout))];
  const rows = sort ? ordered(v, names, sort) : names;
  const press = (c: string) => setSort({ by: c, worstFirst: by === c && !sort?.worstFirst });
  const tie = (name: string, i: number) => {
    const before = rows[i - 1];
    if (!by || !before) return null;
    const said = saidOf(v.pairs, name, before, by);
    return said && (said.word === "no_difference" || said.word === "cannot_tell") ? said.word : null;
  };
  return (
    <section className="flex flex-col gap-1">
      <Head
        remark={
          sort
            ? `by ${channelWords(sort.by)}, ${sort.worstFirst ? "worst" : "best"} first; joined rows are too close to call`
            : "in the rack's order"
        }
      >
        Layouts
      </Head>
      <div className="overflow-x-auto">
        <table className="text-small" aria-label="Sortable figures">
          <thead>
            <tr className="text-left text-faint">
              <th className="font-normal">
                <button type="button" className="cursor-pointer underline" onClick={() => setSort(null)}>
                  layout
                </button>
              </th>
              {channels.map((c) => (
                <th
                  key={c}
                  className="pl-5 text-right font-normal whitespace-nowrap"
                  aria-sort={by === c ? (rising(c) !== sort?.worstFirst ? "ascending" : "descending") : "none"}
                >
                  <button type="button" className="cursor-pointer underline" onClick={() => press(c)}>
                    {channelWords(c)}
                    {heat.basis(c)}
                    {heat.unitAfter(c)}
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
                      <td key={c} className={`py-1 pl-5 text-right font-mono whitespace-nowrap ${f?.at_limit ? "hatched" : ""}`}>
                        {f ? heat.banded(c, f.value, f.band).join(" ") : "–"}
                      </td>
                    );
                  })}
                  <td className="pl-4 text-faint">{joined ? `${SIGN[joined]} ${WORDS[joined]}` : ""}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}

/** One figure under every load, since the best may be another for each. */
function ByLoad({ v }: { v: Verdict }) {
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
      <div className="overflow-x-auto">
        <table className="text-small" aria-label="Load by load">
          <thead>
            <tr className="text-left text-faint">
              <th className="pr-3 font-normal">layout</th>
              {v.loads.map((l) => (
                <th key={l.load} className="pr-5 font-normal">
                  {said(LOADS, l.load)}, {l.runs} runs{heat.unitAfter(channel)}
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
                    <td
                      key={l.load}
                      className="py-0.5 pr-5 font-mono whitespace-nowrap"
                      data-load={`${l.load} ${name} ${channel}`}
                    >
                      {r ? heat.banded(channel, r.value, r.band).join(" ") : "–"}
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
      </div>
      <p className="text-fine text-faint">
        Words are against {v.reference}. A best is named only where it is shown to be better than every other under that load.
      </p>
    </section>
  );
}
