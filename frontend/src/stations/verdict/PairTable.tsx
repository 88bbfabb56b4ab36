import type { Pair } from "@/shared/api/client";
import { Head } from "@/shared/ui/bits";
import { channelWords, unitKind } from "@/shared/ui/channels";
import { useUnits } from "@/shared/units/units";
import { saidOf, WORDS } from "./Claim";

const SIGN: Record<Pair["word"], string> = { better: "▼", worse: "▲", no_difference: "=", cannot_tell: "?" };

/** Every comparison of the chosen layout: difference, expanded uncertainty, word, and what speaks against it. */
export function PairTable({ pairs, chosen }: { pairs: Pair[]; chosen: string }) {
  const units = useUnits();
  const own = pairs.filter((p) => p.a === chosen || p.b === chosen);
  return (
    <section>
      <Head remark="difference, 95 %">{chosen} against the others</Head>
      <table className="mt-1 w-full text-[13.5px]">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">against</th>
            <th className="pl-3 font-normal">what</th>
            <th className="text-right font-normal">difference</th>
            <th className="pl-6 font-normal">{chosen} is</th>
            <th className="pl-4 font-normal">doubts</th>
          </tr>
        </thead>
        <tbody>
          {own.map((p) => {
            const said = saidOf(p, chosen);
            const kind = unitKind(p.channel);
            return (
              <tr
                key={`${p.a}${p.b}${p.channel}`}
                className="border-t hairline align-top"
                data-pair={`${said.other} ${p.channel}`}
                data-word={said.word}
              >
                <td className="py-1 font-semibold">{said.other}</td>
                <td className="py-1 pl-3">{channelWords(p.channel)}</td>
                <td className="py-1 pl-4 text-right font-mono whitespace-nowrap">
                  {said.difference === null
                    ? "–"
                    : `${units.signed(kind, said.difference, 1)} ±${units.text(kind, p.expanded_uncertainty_k ?? 0, 1)} ${kind === "level" ? "dB" : units.unit(kind)}`}
                </td>
                <td className="py-1 pl-6 whitespace-nowrap">
                  <span aria-hidden="true">{SIGN[said.word]}</span> <strong>{WORDS[said.word]}</strong>
                </td>
                <td className="py-1 pl-4 text-[12.5px] text-faint">{p.confounders.join("; ")}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
