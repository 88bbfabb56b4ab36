import type { Verdict } from "@/shared/api/hooks";
import { Bars } from "@/shared/charts/Bars";
import { Figure } from "@/shared/charts/Figure";
import { Scatter } from "@/shared/charts/Scatter";
import { useUnits } from "@/shared/units/units";
import { figureOf } from "./words";

export function Balance({ v, share, onShare }: { v: Verdict; share: number; onShare: (share: number) => void }) {
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
      <label className="flex items-center gap-3 text-small">
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
        <div className="overflow-x-auto">
          <table className="w-full text-small" aria-label="Spreads and normalised figures">
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
      </div>
      <p className="text-fine text-faint">
        Air through the case is forecast. What a part could be given is reckoned to its limit in the worst room, the rise in
        proportion to power and power with the cube of the clock, in steps of 100 MHz.
      </p>
    </section>
  );
}
