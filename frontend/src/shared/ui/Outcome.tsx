import type { Schemas } from "@/shared/api/client";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { chanceWords } from "@/shared/words/chance";
import { channelWords, said, UNIT_WORDS } from "@/shared/words/words";
import { measurements } from "../words/lists";
import { Head } from "./bits";
import { Term } from "./Term";

type Channel = Schemas["CommissioningDoc"]["channels"][number];
export const kindOf = (unit: string) => (unit === "K" ? "difference" : unit === "rpm" ? "speed" : "plain");

/** A run held against others: every figure with what is allowed, and what is likely wrong with where to look. */
export function Outcome({ result: r, less }: { result: Schemas["CommissioningDoc"]; less: string }) {
  const units = useUnits();
  const figure = (c: Channel) => {
    const kind = kindOf(c.unit);
    return `${units.signed(kind, c.difference_k, 1)} ${c.unit === "K" ? units.unit(kind) : c.unit}`;
  };
  return (
    <div className="flex flex-col gap-3" data-outcome={r.verdict}>
      <p className="text-small text-faint">
        {r.minutes.toFixed(0)} min under load, at the same minute as {r.runs.length} reference{" "}
        {r.runs.length === 1 ? "run" : "runs"}, each over its own room.{" "}
        {r.learned
          ? `Faults as forecast after ${measurements(r.learned)} of this case.`
          : "Faults as forecast from the parts' sheets."}
      </p>
      <div className="grid gap-4 lg:grid-cols-2">
        <table className="w-full self-start text-small">
          <thead className="text-left text-fine text-faint">
            <tr>
              <th className="font-normal">read</th>
              <th className="text-right font-normal">{less}</th>
              <th className="text-right font-normal">
                <Term t="allowed" />
              </th>
              <th className="text-right font-normal">from the forecast</th>
              <th className="pl-3 font-normal" aria-label="word" />
            </tr>
          </thead>
          <tbody>
            {r.channels.map((c) => (
              <tr key={c.name} className={`border-t hairline ${c.word === "outside" ? "font-semibold text-error" : ""}`}>
                <td className="py-0.5">{channelWords(c.name)}</td>
                <td className="text-right font-mono">{c.difference_k === null ? "–" : figure(c)}</td>
                <td className="text-right font-mono">{c.allowed_k > 0 ? units.band(kindOf(c.unit), c.allowed_k, 1) : "–"}</td>
                <td className="text-right font-mono font-normal">
                  {c.from_forecast_k === null || c.from_forecast_k === undefined
                    ? ""
                    : `${units.signed(kindOf(c.unit), c.from_forecast_k, 1)} ${units.band(kindOf(c.unit), c.forecast_band_k)}`}
                </td>
                <td className="pl-3">{said(UNIT_WORDS, c.word)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <div className="flex flex-col gap-2">
          <Head level={3}>
            <Term t="likely">What is likely</Term>
          </Head>
          {r.diagnosis.slice(0, 4).map((d) => (
            <div key={`${d.cause}${d.mount}`} className="text-small" data-cause={d.cause} data-mount={d.mount ?? ""}>
              <p>
                <strong className="font-mono">{chanceWords(d.chance_pct / 100)}</strong> <Said text={d.words} />
              </p>
              {d.cause !== "none" && (
                <p className="text-faint">
                  <Said text={d.look} />
                </p>
              )}
            </div>
          ))}
          {r.tell && (
            <p className="border-l-4 border-base-content pl-2 text-small" data-tell>
              <Said text={r.tell} />
            </p>
          )}
          {(r.notes ?? []).map((n) => (
            <p key={n} className="text-fine text-faint">
              {n}
            </p>
          ))}
        </div>
      </div>
    </div>
  );
}
