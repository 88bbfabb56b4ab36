import { useState } from "react";
import type { Schemas } from "@/shared/api/client";
import type { Verdict } from "@/shared/api/hooks";
import { Curves } from "@/shared/charts/Curves";
import { Figure } from "@/shared/charts/Figure";
import { Waterfall } from "@/shared/charts/Waterfall";
import { Empty, Head, Segments } from "@/shared/ui/bits";
import { channelWords } from "@/shared/ui/channels";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { Way } from "./Argument";
import { SIGN, WORDS } from "./words";

type Props = { v: Verdict; level: number | null; onLevel: (level: number | null) => void };

/** What each change did: ways, ladders, designs, named pairs, prices, and layouts at the same level. */
export function Effects({ v, level, onLevel }: Props) {
  const [channel, setChannel] = useState<"cpu_package_c" | "card_core_c">("cpu_package_c");
  const e = v.effects;
  const own = <T extends { channel: string }>(rows: T[]) => rows.filter((r) => r.channel === channel);
  const ladders = e.ladders.filter((l) => l.ladder.channel === channel);
  const way = e.ways.find((w) => w.channel === channel);
  const walked = way ? [way.steps[0]?.start, ...way.steps.map((x) => x.end)].join() : "";
  const nothing = !e.ways.length && !e.ladders.length && !e.designs.length && !e.named.length && !e.prices.length;
  return (
    <>
      <header className="flex items-center justify-between gap-3">
        <h1 className="text-[22px]">What each change did</h1>
        <Segments
          label="Of which part"
          value={channel}
          choices={[
            { value: "cpu_package_c", words: "processor" },
            { value: "card_core_c", words: "card" },
          ]}
          onChange={setChannel}
        />
      </header>
      {nothing && (
        <Empty title="Nothing to take apart yet">
          <p>Run layouts that differ by one change, or plan a ladder or all combinations under Plan.</p>
        </Empty>
      )}
      {!ladders.some((l) => walked === l.rungs.map((r) => r.layout).join()) && <Way v={v} channel={channel} />}
      {ladders.map((l) => (
        <LadderView key={l.rungs.map((r) => r.layout).join("")} ladder={l} />
      ))}
      {own(e.designs).map((d) => (
        <DesignView key={d.layouts.join("")} design={d} />
      ))}
      {own(e.named).length > 0 && <NamedView rows={own(e.named)} />}
      {own(e.equal_noise).map((q) => (
        <EqualNoiseView key={q.channel} equal={q} level={level} onLevel={onLevel} />
      ))}
      {own(e.prices).length > 0 && <PriceView rows={own(e.prices)} />}
    </>
  );
}

function useDifference() {
  const units = useUnits();
  return (d: number, band: number) =>
    `${units.signed("difference", d, 1)} ±${units.text("difference", band, 1)} ${units.unit("difference")}`;
}

function LadderView({ ladder }: { ladder: Schemas["LadderOut"] }) {
  const units = useUnits();
  const l = ladder.ladder;
  const first = ladder.rungs[0];
  const last = ladder.rungs.at(-1);
  if (!first || !last) return null;
  const knee = l.knee
    ? `The knee is at ${l.knee}: no later step brings more than ${units.withUnit("difference", l.margin_k, 1)}.`
    : "No step pays.";
  const negative = l.negative.length
    ? ` Steps that make it warmer: ${l.negative.map((n) => `${n}${l.shown.includes(n) ? "" : " (not shown)"}`).join(", ")}.`
    : "";
  return (
    <section
      data-ladder={ladder.rungs.map((r) => r.layout).join("")}
      data-knee={l.knee ?? ""}
      data-negative={l.negative.join("")}
    >
      <Figure
        title={`Ladder ${ladder.rungs.map((r) => r.layout).join(" → ")}`}
        remark={channelWords(l.channel)}
        name="ladder"
        table={{
          head: ["to", "what was added", `step, ${units.unit("difference")}`, "±", "word", "noise added, dB"],
          rows: l.rungs.map((s, i) => [
            s.end,
            s.changes.join("; "),
            units.signed("difference", s.difference_k, 1),
            units.text("difference", s.expanded_k, 1),
            WORDS[s.word],
            ladder.noise[i] === null || ladder.noise[i] === undefined ? "" : units.signed("level", ladder.noise[i], 1),
          ]),
        }}
      >
        <Waterfall
          start={first.layout}
          end={last.layout}
          startValue={first.value}
          endValue={last.value}
          kind="difference"
          bars={l.rungs.map((s, i) => ({
            from: s.start,
            to: s.end,
            by: s.difference_k,
            band: s.expanded_k,
            shown: s.word === "better" || s.word === "worse",
            words: `${s.changes.join(", ")}${ladder.noise[i] === null || ladder.noise[i] === undefined ? "" : `; ${units.signed("level", ladder.noise[i], 1)} dB`}`,
          }))}
        />
      </Figure>
      <p className="text-[14px]">
        {knee}
        {negative}
      </p>
    </section>
  );
}

function DesignView({ design }: { design: Schemas["DesignOut"] }) {
  const difference = useDifference();
  const units = useUnits();
  const largest = Math.max(...design.effects.map((x) => Math.abs(x.effect_k) + x.expanded_k), 0.1);
  return (
    <section className="flex flex-col gap-1" data-design={design.layouts.join("")}>
      <Head remark={`${design.layouts.join(", ")}; ${channelWords(design.channel)}`}>
        All combinations of {design.names.length} changes
      </Head>
      <table className="text-[13.5px]">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">effect of</th>
            <th className="text-right font-normal">size</th>
            <th className="w-[34%] pl-4 font-normal">with its 95 % band</th>
            <th className="pl-4 font-normal">shown</th>
          </tr>
        </thead>
        <tbody>
          {design.effects.map((x) => (
            <tr key={x.changes.join("|")} className="border-t hairline" data-effect={x.changes.join(" × ")}>
              <td className="py-1">
                {x.changes.length > 1 ? <>together, beyond their sum: {x.changes.join(" × ")}</> : x.changes[0]}
              </td>
              <td className="py-1 text-right font-mono whitespace-nowrap">{difference(x.effect_k, x.expanded_k)}</td>
              <td className="pl-4">
                <Interval value={x.effect_k} band={x.expanded_k} largest={largest} />
              </td>
              <td className="pl-4">{x.shown ? "yes" : "no"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-[12.5px] text-faint">
        Measured: {design.layouts.map((name, i) => `${name} ${units.text("difference", design.values[i] ?? 0, 1)}`).join(", ")}{" "}
        {units.unit("difference")}. An effect is the mean with the change less the mean without it.
      </p>
    </section>
  );
}

function Interval({ value, band, largest }: { value: number; band: number; largest: number }) {
  const at = (x: number) => 50 + (x / largest) * 48;
  return (
    <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-3 w-full" aria-hidden="true">
      <line x1="50" x2="50" y1="0" y2="8" stroke="currentColor" strokeOpacity="0.5" strokeWidth="0.6" />
      <rect
        x={at(value - band)}
        width={at(value + band) - at(value - band)}
        y="2"
        height="4"
        fill="var(--color-accent)"
        opacity="0.35"
      />
      <rect x={at(value) - 0.6} width="1.200" y="0.500" height="7" fill="var(--color-accent)" />
    </svg>
  );
}

const KINDS: Record<string, string> = {
  panel: "What a panel costs",
  push_pull: "Both faces of the radiator",
  filter: "What a filter costs",
};

function NamedView({ rows }: { rows: Schemas["NamedOut"][] }) {
  const difference = useDifference();
  const units = useUnits();
  return (
    <section className="flex flex-col gap-1">
      <Head remark="from two layouts that differ by it alone">Panels, filters, push and pull</Head>
      <table className="text-[13.5px]">
        <tbody>
          {rows.map((n) => (
            <tr key={`${n.kind}${n.with_it}${n.without}`} className="border-t hairline align-top" data-named={n.kind}>
              <td className="py-1">
                {KINDS[n.kind]}: {n.words}
              </td>
              <td className="py-1 pl-3">
                {n.with_it} against {n.without}
              </td>
              <td className="py-1 pl-3 font-mono whitespace-nowrap">{difference(n.difference_k, n.expanded_k)}</td>
              <td className="py-1 pl-3 whitespace-nowrap">
                <span aria-hidden="true">{SIGN[n.word]}</span> {WORDS[n.word]}
              </td>
              <td className="py-1 pl-3">
                {n.rating && `${n.rating} restriction, ${units.text("share", n.share_pct ?? 0)} % of the rise`}
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

function EqualNoiseView({
  equal,
  level,
  onLevel,
}: {
  equal: Schemas["EqualNoise"];
  level: number | null;
  onLevel: (l: number | null) => void;
}) {
  const units = useUnits();
  const difference = useDifference();
  const curves = [...new Set(equal.points.map((p) => p.family))].map((family) => ({
    name: family,
    points: equal.points
      .filter((p) => p.family === family)
      .map((p) => ({ name: p.layout, x: p.level_dba, y: p.rise_k, band: p.rise_band_k })),
  }));
  const single = equal.points.filter((p) => equal.rows.some((r) => r.family === p.family && r.rise_k === null));
  const marks = equal.rows
    .filter((r) => r.rise_k !== null)
    .map((r) => ({
      curve: r.family,
      x: r.level_dba,
      y: r.rise_k ?? 0,
      band: r.expanded_k ?? 0,
      beyond: r.place === "beyond",
    }));
  return (
    <section className="flex flex-col gap-2" data-equal-noise={equal.level_dba.toFixed(1)}>
      <Figure
        title="At the same level"
        remark={
          equal.levels
            ? `all with several speeds: ${equal.levels[0].toFixed(1)} to ${equal.levels[1].toFixed(1)} dBA`
            : "no level that all were run at"
        }
        name="equal-noise"
        table={{
          head: ["layout", "level, dBA", `rise, ${units.unit("difference")}`, "±", "how"],
          rows: equal.rows.map((r) => [
            r.family,
            r.level_dba.toFixed(1),
            r.rise_k === null ? "" : units.text("difference", r.rise_k, 1),
            r.expanded_k === null || r.expanded_k === undefined ? "" : units.text("difference", r.expanded_k, 1),
            r.words,
          ]),
        }}
      >
        <div className="flex flex-wrap items-start gap-6">
          <Curves curves={curves} marks={marks} level={equal.level_dba} words={channelWords(equal.channel)} />
          <div className="flex min-w-64 flex-1 flex-col gap-2">
            <NumberField
              label="Level, dBA"
              low={10}
              high={90}
              digits={1}
              optional="chosen"
              value={level ?? Number(equal.level_dba.toFixed(1))}
              onCommit={onLevel}
            />
            <ul className="text-[13.5px]">
              {equal.rows
                .filter((r) => r.rise_k !== null)
                .map((r) => (
                  <li
                    key={r.family}
                    className={`border-b hairline py-0.5 ${r.place === "beyond" ? "text-faint" : ""}`}
                    data-at-level={r.family}
                    data-place={r.place}
                  >
                    <strong className="wide">{r.family}</strong>{" "}
                    {r.rise_k !== null && (
                      <span className="font-mono">
                        {units.text("difference", r.rise_k, 1)}
                        {typeof r.expanded_k === "number" && ` ±${units.text("difference", r.expanded_k, 1)}`}{" "}
                        {units.unit("difference")}
                      </span>
                    )}{" "}
                    <span className="text-[12.5px]">{r.words}</span>
                  </li>
                ))}
            </ul>
            {single.length > 0 && (
              <p className="text-[12.5px] text-faint" data-single={single.map((p) => p.layout).join("")}>
                Run at one speed only: {single.map((p) => `${p.layout} at ${p.level_dba.toFixed(1)}`).join(", ")} dBA. Run them at
                another speed to read them here.
              </p>
            )}
          </div>
        </div>
      </Figure>
      {equal.pairs.length > 0 && (
        <p className="text-[13.5px]">
          {equal.pairs.slice(0, 6).map((p) => (
            <span
              key={`${p.start}${p.end}`}
              className="mr-4 whitespace-nowrap"
              data-level-pair={`${p.end} ${p.start}`}
              data-word={p.word}
            >
              {p.end} against {p.start}: <span className="font-mono">{difference(p.difference_k, p.expanded_k)}</span>{" "}
              <span aria-hidden="true">{SIGN[p.word]}</span> {WORDS[p.word]}
            </span>
          ))}
        </p>
      )}
      <p className="text-[12.5px] text-faint">
        Filled squares are read between two speeds of the same layout or at one of them; hollow ones lie beyond its own curve and
        are not ranked.
      </p>
    </section>
  );
}

function PriceView({ rows }: { rows: Schemas["Price"][] }) {
  const difference = useDifference();
  const worth = rows.filter((r) => r.worth);
  const not = rows.filter((r) => !r.worth);
  const per = (value: number | null, digits: number) => (value === null ? "–" : value.toFixed(digits));
  return (
    <section className="flex flex-col gap-1" data-prices={rows.length}>
      <Head remark={`against ${rows[0]?.start}`}>What a kelvin costs</Head>
      {worth.length > 0 && (
        <table className="text-[13.5px]">
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
        <p className="text-[13.5px]" data-not-worth={not.map((r) => r.end).join("")}>
          <strong>Not worth it:</strong> {not.map((r) => `${r.end} (${r.why})`).join(", ")}.
        </p>
      )}
    </section>
  );
}
