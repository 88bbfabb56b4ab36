import { useState } from "react";
import type { Verdict } from "@/shared/api/hooks";
import { useHeat } from "@/shared/job/heat";
import { Head } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, unitKind } from "@/shared/words/words";
import { leading, SIGN, WORDS } from "./words";

export function Pairs({ v }: { v: Verdict }) {
  const units = useUnits();
  const heat = useHeat();
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
      <div className="overflow-x-auto">
        <table className="w-full text-small" aria-label="Every comparison">
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
                      : `${heat.apart(p.channel, p.difference_k, num(p.expanded_uncertainty_k))} ${kind === "level" ? "dB" : units.unit(kind)}`}
                  </td>
                  <td className="py-0.5 pl-4 whitespace-nowrap">
                    {p.context ? (
                      "context only"
                    ) : p.at_limit ? (
                      "at its limit"
                    ) : (
                      <>
                        <span aria-hidden="true">{SIGN[p.word]}</span> {WORDS[p.word]}
                        {p.tell && <span className="text-faint">, {p.tell.repeats} runs of each would tell</span>}
                      </>
                    )}
                  </td>
                  <td className="py-0.5 pl-4 text-fine text-faint">{p.confounders.join("; ")}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}
