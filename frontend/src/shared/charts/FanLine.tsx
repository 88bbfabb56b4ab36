import { num } from "@/shared/words/lists";
import { useUnits } from "../units/units";
import { Twin } from "./Figure";

type Points = readonly (readonly number[])[];

/** Pressure over flow: the fan at full speed and as it turns, the system's line, and where they meet. */
export function FanLine({ full, now, system, at }: { full: Points; now: Points; system: Points; at: [number, number] }) {
  const units = useUnits();
  const most = (i: number, sets: Points[]) => Math.max(...sets.flat().map((p) => num(p[i])), 1);
  const qMax = most(0, [full]) * 1.04;
  const pMax = most(1, [full]) * 1.06;
  const x = (q: number) => 34 + (q / qMax) * 200;
  const y = (p: number) => 112 - (p / pMax) * 100;
  const line = (points: Points) =>
    points
      .filter((p) => num(p[0]) <= qMax && num(p[1]) <= pMax)
      .map((p) => `${x(num(p[0])).toFixed(1)},${y(num(p[1])).toFixed(1)}`)
      .join(" ");
  const path: Points = [[0, 0], ...[...system].sort((a, b) => num(a[0]) - num(b[0]))];
  const { unit } = units;
  const rows = now.map((p) => [
    units.text("flow", p[0]),
    units.text("pressure", p[1], 1),
    units.text("pressure", lineAt(path, num(p[0])), 1),
  ]);
  return (
    <div className="flex flex-col">
      <svg viewBox="0 0 245 136" className="w-64" role="img" aria-label="Fan curve, system line and operating point">
        <path d="M34 8V112H238" fill="none" stroke="currentColor" opacity="0.5" />
        <polyline points={line(full)} fill="none" stroke="currentColor" strokeDasharray="3 3" opacity="0.6" />
        <polyline points={line(now)} fill="none" stroke="var(--color-accent)" strokeWidth="2" />
        <polyline points={line(path)} fill="none" stroke="currentColor" strokeWidth="1.5" />
        <circle cx={x(at[0])} cy={y(at[1])} r="4" className="fill-accent stroke-paper" strokeWidth="1.5" />
        <text x="236" y="128" textAnchor="end" className="fill-current text-tiny opacity-70">
          {units.withUnit("flow", qMax / 1.04)}
        </text>
        <text x="36" y="16" className="fill-current text-tiny opacity-70">
          {units.withUnit("pressure", pMax / 1.06)}
        </text>
        <text x={x(at[0]) + 7} y={y(at[1]) - 5} className="fill-current text-tiny">
          works here
        </text>
      </svg>
      <Twin
        table={{ head: [`flow, ${unit("flow")}`, `the fan, ${unit("pressure")}`, `the way through, ${unit("pressure")}`], rows }}
      />
    </div>
  );
}

/** Of a line through points in their order, its height at `x`; none beyond its end. */
function lineAt(points: Points, x: number): number | null {
  const after = points.findIndex((p) => num(p[0]) >= x);
  const [a, b] = [points[Math.max(after - 1, 0)], points[after]];
  if (!a || !b) return null;
  const span = num(b[0]) - num(a[0]);
  return span ? num(a[1]) + ((x - num(a[0])) / span) * (num(b[1]) - num(a[1])) : num(b[1]);
}
