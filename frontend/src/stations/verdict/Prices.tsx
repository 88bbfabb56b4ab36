import type { Schemas } from "@/shared/api/client";
import { Head } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { NAMED, said } from "@/shared/words/words";
import { useDifference } from "./difference";
import { SIGN, WORDS } from "./words";

export function NamedView({ rows }: { rows: Schemas["NamedOut"][] }) {
  const difference = useDifference();
  const units = useUnits();
  return (
    <section className="flex flex-col gap-1">
      <Head remark="from two layouts that differ by it alone">Panels, filters, push and pull</Head>
      <table className="text-small">
        <tbody>
          {rows.map((n) => (
            <tr key={`${n.kind}${n.with_it}${n.without}`} className="border-t hairline align-top" data-named={n.kind}>
              <td className="py-1">
                {said(NAMED, n.kind)}: {n.words}
              </td>
              <td className="py-1 pl-3">
                {n.with_it} against {n.without}
              </td>
              <td className="py-1 pl-3 font-mono whitespace-nowrap">{difference(n.difference_k, n.expanded_k)}</td>
              <td className="py-1 pl-3 whitespace-nowrap">
                <span aria-hidden="true">{SIGN[n.word]}</span> {WORDS[n.word]}
              </td>
              <td className="py-1 pl-3">
                {n.rating && `${n.rating} restriction, ${units.text("share", n.share_pct)} % of the rise`}
                {n.price &&
                  (n.price.cost_per_k !== null ? `${units.text("plain", n.price.cost_per_k, 1)} in cost per K` : n.price.why)}
                {n.noise_db !== null && `; ${units.signed("level", n.noise_db, 1)} dB`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

export function PriceView({ rows }: { rows: Schemas["Price"][] }) {
  const difference = useDifference();
  const worth = rows.filter((r) => r.worth);
  const not = rows.filter((r) => !r.worth && r.told !== false);
  const open = rows.filter((r) => r.told === false);
  const per = (value: number | null, digits: number) => (value === null ? "–" : value.toFixed(digits));
  return (
    <section className="flex flex-col gap-1" data-prices={rows.length}>
      <Head remark={`against ${rows[0]?.start}`}>What a kelvin costs</Head>
      {worth.length > 0 && (
        <table className="text-small">
          <thead>
            <tr className="text-left text-faint">
              <th className="font-normal">layout</th>
              <th className="text-right font-normal">cooler by</th>
              <th className="text-right font-normal">cost per K</th>
              <th className="text-right font-normal">dB per K</th>
              <th className="text-right font-normal">minutes per K</th>
            </tr>
          </thead>
          <tbody>
            {worth.map((r) => (
              <tr key={r.end} className="border-t hairline font-mono" data-price={r.end}>
                <td className="py-1 font-sans font-semibold">{r.end}</td>
                <td className="py-1 text-right">{difference(r.gain_k, r.expanded_k).replace("+", "")}</td>
                <td className="py-1 text-right">{per(r.cost_per_k, 1)}</td>
                <td className="py-1 text-right">{per(r.db_per_k, 2)}</td>
                <td className="py-1 text-right">{per(r.minutes_per_k, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {not.length > 0 && (
        <p className="text-small" data-not-worth={not.map((r) => r.end).join("")}>
          <strong>Not worth it:</strong> {not.map((r) => `${r.end} (${r.why})`).join(", ")}.
        </p>
      )}
      {open.length > 0 && (
        <p className="text-small" data-untold={open.map((r) => r.end).join("")}>
          <strong>Cannot be told yet, so no price:</strong>{" "}
          {open.map((r) => `${r.end} (${difference(-r.gain_k, r.expanded_k)})`).join(", ")}. More runs would tell.
        </p>
      )}
    </section>
  );
}
