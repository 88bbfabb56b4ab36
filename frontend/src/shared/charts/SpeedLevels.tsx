import { num } from "@/shared/words/lists";
import { Frame } from "./Frame";
import { scaleOf } from "./scale";

const W = 640;
const H = 250;
const LEFT = 44;
const BOTTOM = 208;
const TOP = 14;

type Point = { id: number; speed_pct: number; level_dba: number; struck: boolean };
type Band = { from_pct: number; to_pct: number; why: string };

/** Level over speed: what was read, the law through it with its band, speeds to avoid, and the level that is wanted. */
export function SpeedLevels(props: {
  law: readonly (readonly [number, number, number])[];
  points: readonly Point[];
  /** Whether something was read from which the law is known. */
  known: boolean;
  bands: readonly Band[];
  avoid: readonly (readonly [number, number])[];
  target: number | null;
  next: number | null;
  words: string;
}) {
  const { law, points, known, target } = props;
  const first = num(law[0]?.[0]);
  const last = Math.max(num(law.at(-1)?.[0]), first + 1);
  const ys = scaleOf(
    [...law.map((l) => l[1]), ...points.map((p) => p.level_dba), ...(target === null ? [] : [target])],
    BOTTOM,
    TOP,
    4,
  );
  const x = (pct: number) => LEFT + ((pct - first) / Math.max(last - first, 1)) * (W - LEFT - 10);
  const ticks = [20, 30, 40, 50, 60, 70, 80, 90, 100].filter((t) => t >= first && t <= last);
  const y = (v: number) => Math.min(Math.max(ys.at(v), TOP), BOTTOM);
  const edge = [
    ...law.map(([p, v, b]) => `${x(p)},${y(v + b)}`),
    ...[...law].reverse().map(([p, v, b]) => `${x(p)},${y(v - b)}`),
  ];
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="h-auto w-full max-w-[720px]" role="img" aria-label={props.words}>
      {[
        ...props.bands.map((b) => ({ a: b.from_pct, b: b.to_pct, why: b.why })),
        ...props.avoid.map(([a, b]) => ({ a, b, why: "to avoid" })),
      ].map((b) => (
        <rect
          key={`${b.a} ${b.b} ${b.why}`}
          x={x(Math.max(b.a, first))}
          width={Math.max(x(Math.min(b.b, last)) - x(Math.max(b.a, first)), 3)}
          y={TOP}
          height={BOTTOM - TOP}
          fill="var(--color-warning)"
          fillOpacity="0.22"
        >
          <title>{b.why}</title>
        </rect>
      ))}
      <Frame
        xs={{ at: x, ticks, low: first, high: last }}
        ys={ys}
        left={LEFT}
        right={W}
        top={TOP}
        bottom={BOTTOM}
        sayX={String}
        sayY={String}
      />
      <polygon points={edge.join(" ")} fill="var(--color-accent)" fillOpacity="0.15" />
      <polyline
        points={law.map(([p, v]) => `${x(p)},${y(v)}`).join(" ")}
        fill="none"
        stroke="var(--color-accent)"
        strokeWidth="1.6"
        strokeDasharray={known ? "" : "5 4"}
      />
      {target !== null && (
        <line x1={LEFT} x2={W} y1={y(target)} y2={y(target)} stroke="currentColor" strokeDasharray="5 4" strokeWidth="1.2" />
      )}
      {props.next !== null && <path d={`M${x(props.next)} ${BOTTOM}l-5 9h10z`} fill="currentColor" />}
      {points.map((p) => (
        <circle
          key={p.id}
          cx={x(p.speed_pct)}
          cy={y(p.level_dba)}
          r="4"
          fill={p.struck ? "none" : "currentColor"}
          stroke="currentColor"
          strokeOpacity={p.struck ? 0.4 : 1}
        >
          <title>{`${p.speed_pct.toFixed(0)} %: ${p.level_dba.toFixed(1)} dBA`}</title>
        </circle>
      ))}
      <text x={W} y={H - 6} textAnchor="end" className="fill-current text-fine opacity-75">
        speed, % of full; upwards dBA
      </text>
    </svg>
  );
}
