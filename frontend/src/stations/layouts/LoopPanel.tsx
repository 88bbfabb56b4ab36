import type { LayoutDoc } from "@/shared/api/client";
import { useSheet } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head, Working } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { CAUTIONS, LOOP_AIR, LOOP_ENDS, LOOP_LIES, said } from "@/shared/words/words";

type Loop = NonNullable<ReturnType<typeof useSheet>["data"]>["loops"][number];

/** A loop by its heights: pump, tanks and barbs over the floor, where the air is, and what the years do. */
export function LoopPanel({ layout }: { layout: LayoutDoc }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const { data, error } = useSheet({ document, layout: layout.id, conditions });
  if (error) return <p role="alert">No loop: {error.message}</p>;
  if (data && !data.loops.length)
    return (
      <section className="flex flex-col gap-3">
        <Head>Loops</Head>
        <p className="text-small">
          This layout cools by air. Choose a sealed cooler, or give it a loop, under cooler, radiator, panels.
        </p>
      </section>
    );
  return (
    <div className="flex flex-col gap-5">
      {!data && <Working />}
      {data?.loops.map((l) => (
        <OneLoop key={l.cooler + l.cools.join()} loop={l} name={document.parts?.coolers?.find((c) => c.id === l.cooler)?.name} />
      ))}
      <Caution more={CAUTIONS.openLoop}>{CAUTIONS.coolant}</Caution>
    </div>
  );
}

function OneLoop({ loop, name }: { loop: Loop; name?: string }) {
  const units = useUnits();
  const { heights: h, age } = loop;
  const mm = (v: number) => units.withUnit("length", v, units.system === "metric" ? 0 : 1);
  const year = (what: string, y: number | null) =>
    y === null
      ? `It does not reach the ${what} within thirty years.`
      : y <= 0
        ? `It is at the ${what} when new.`
        : `It reaches the ${what} in about ${Math.round(y)} years.`;
  return (
    <section className="flex flex-col gap-2 text-small" data-loop={loop.cooler} data-pocket={h.pocket_in}>
      <Head remark={`cools the ${loop.cools.join(" and the ")}`}>{name || loop.cooler}</Head>
      <HeightPicture loop={loop} />
      <p>
        Air collects <strong className={h.pocket_in === "pump" ? "text-error" : ""}>{said(LOOP_AIR, h.pocket_in)}</strong>. The
        highest point beside the pump is {mm(Math.abs(h.over_pump_mm))} {h.over_pump_mm < 0 ? "below" : "above"} it.
      </p>
      <ul className="flex flex-col gap-0.5">
        <li>
          pump at <span className="font-mono">{mm(h.pump.z_mm)}</span>
        </li>
        {h.radiators.map((r) => (
          <li key={r.mounts.join()}>
            {r.mounts.map((m) => m.toUpperCase()).join(", ")} {said(LOOP_LIES, r.lies)}: {mm(r.low_mm)} to {mm(r.high_mm)}; tubes
            leave at its {said(LOOP_ENDS, r.tubes)}, {mm(r.barb_mm)}
          </li>
        ))}
        {h.reservoir_mm !== null && <li>reservoir up to {mm(h.reservoir_mm)}</li>}
      </ul>
      {h.reservoir_mm !== null && <p>A loop with a reservoir is topped up: look at its level every few months.</p>}
      <p data-age={age.barb_year ?? "none"} hidden={h.reservoir_mm !== null}>
        At {units.withUnit("temperature", loop.coolant_c, 0)} of coolant it starts with {age.first_ml.toFixed(0)} ml of air and
        loses {age.rate_ml_year.toFixed(1)} ml a year. {year("barbs", age.barb_year)} {year("pump", age.pump_year)}
      </p>
      {h.reservoir_mm === null && <AgePicture loop={loop} />}
      <p className="text-fine text-faint" hidden={h.reservoir_mm !== null}>
        {age.known_material ? "" : "Its tubes' material is not one of those known here and counts as EPDM. "}Rates of loss are
        common practice, no source: their order is known, their size is not. The maker's stated life leads.
      </p>
    </section>
  );
}

/** The loop seen from the window side, to scale in height: what is above what. */
function HeightPicture({ loop }: { loop: Loop }) {
  const h = loop.heights;
  const spots = [h.pump, ...h.radiators.flatMap((r) => [...r.tanks, r.barb]), h.pocket];
  const zs = [...spots.map((s) => s.z_mm), ...h.radiators.flatMap((r) => [r.low_mm, r.high_mm]), num(h.reservoir_mm)];
  const xs = spots.map((s) => s.x_mm);
  const [low, high] = [Math.min(...zs, 0), Math.max(...zs) + 20];
  const [near, far] = [Math.min(...xs) - 40, Math.max(...xs) + 40];
  const x = (v: number) => 10 + ((far - v) / Math.max(far - near, 1)) * 270;
  const y = (v: number) => 12 + ((high - v) / Math.max(high - low, 1)) * 136;
  return (
    <svg
      viewBox="0 0 290 160"
      className="w-full rounded-box border hairline bg-paper"
      role="img"
      aria-label="Heights of the loop"
    >
      {h.radiators.map((r) => {
        const [a = r.barb, b = r.barb] = r.tanks;
        return (
          <g key={r.mounts.join()}>
            <line
              x1={x(a.x_mm)}
              y1={y(a.z_mm)}
              x2={x(b.x_mm)}
              y2={y(b.z_mm)}
              stroke="var(--color-base-content)"
              strokeWidth="7"
              opacity="0.25"
            />
            {[a, b].map((t) => (
              <rect
                key={`${t.x_mm} ${t.z_mm}`}
                x={x(t.x_mm) - 7}
                y={y(t.z_mm) - 7}
                width="14"
                height="14"
                rx="2"
                className="fill-base-content/60"
              />
            ))}
            <path
              d={`M${x(h.pump.x_mm)} ${y(h.pump.z_mm)} L${x(r.barb.x_mm)} ${y(r.barb.z_mm)}`}
              stroke="var(--color-accent)"
              strokeWidth="2.5"
              strokeDasharray="5 3"
              fill="none"
            />
            <circle cx={x(r.barb.x_mm)} cy={y(r.barb.z_mm)} r="3.5" className="fill-accent" />
          </g>
        );
      })}
      <circle cx={x(h.pump.x_mm)} cy={y(h.pump.z_mm)} r="9" className="fill-paper stroke-base-content" strokeWidth="2" />
      <text x={x(h.pump.x_mm) + 12} y={y(h.pump.z_mm) + 4} className="fill-base-content text-tiny">
        pump
      </text>
      {h.reservoir_mm !== null && (
        <text x="16" y={y(h.reservoir_mm) + 4} className="fill-base-content text-tiny">
          reservoir —
        </text>
      )}
      <g data-mark="air">
        <ellipse
          cx={x(h.pocket.x_mm)}
          cy={y(h.pocket.z_mm)}
          rx="13"
          ry="6"
          fill="none"
          className="stroke-warning"
          strokeWidth="2"
        />
        <text x={x(h.pocket.x_mm)} y={y(h.pocket.z_mm) - 8} textAnchor="middle" className="fill-warning text-tiny">
          air
        </text>
      </g>
    </svg>
  );
}

function AgePicture({ loop }: { loop: Loop }) {
  const air = loop.air_ml_by_year;
  const barb = loop.heights.above_barb_ml;
  const most = Math.max(...air, Math.min(barb * 1.1, num(air.at(-1)) * 3), 1);
  const y = (v: number) => 62 - (v / most) * 54;
  return (
    <svg viewBox="0 0 290 84" className="w-full" role="img" aria-label="Air in the loop by year">
      <path d="M24 6V62H284" fill="none" stroke="currentColor" opacity="0.5" />
      {barb <= most && (
        <>
          <line x1="24" x2="284" y1={y(barb)} y2={y(barb)} className="stroke-warning" strokeDasharray="4 3" />
          <text x="284" y={y(barb) - 3} textAnchor="end" className="fill-warning text-tiny">
            reaches the barbs
          </text>
        </>
      )}
      <polyline
        points={air.map((v, i) => `${24 + i * 26},${y(v)}`).join(" ")}
        fill="none"
        stroke="var(--color-accent)"
        strokeWidth="2"
      />
      {[0, 5, 10].map((i) => (
        <text
          key={i}
          x={24 + i * 26}
          y="76"
          textAnchor={i === 10 ? "end" : "middle"}
          className="fill-current text-tiny opacity-70"
        >
          {i === 0 ? "new" : `year ${i}`}
        </text>
      ))}
      <text x="28" y="12" className="fill-current text-tiny opacity-70">
        {air.at(-1)?.toFixed(0) ?? "–"} ml of air in year 10
      </text>
    </svg>
  );
}
