import { useUnits } from "../units/units";
import { Frame } from "./Frame";
import { scaleOf } from "./scale";

export type CurvePoint = { name: string; x: number; y: number; band: number };
export type Curve = { name: string; points: CurvePoint[] };
export type Mark = { curve: string; x: number; y: number; band: number; beyond: boolean };

const W = 440;
const H = 250;
const LEFT = 44;
const BOTTOM = 208;
const TOP = 16;

/** Rise over level for layouts that were run at several speeds, and where each is read off. */
export function Curves({ curves, marks, level, words }: { curves: Curve[]; marks: Mark[]; level: number; words: string }) {
  const units = useUnits();
  const all = curves.flatMap((c) => c.points);
  const xs = scaleOf([...all.map((p) => p.x), level], LEFT, W - 34, 2);
  const ys = scaleOf([...all.flatMap((p) => [p.y - p.band, p.y + p.band]), ...marks.map((m) => m.y)], BOTTOM, TOP);
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="h-auto w-full max-w-[560px]" role="img" aria-label={`${words} over level`}>
      <Frame
        xs={xs}
        ys={ys}
        left={LEFT}
        right={W - 34}
        top={TOP}
        bottom={BOTTOM}
        sayX={String}
        sayY={(t) => units.text("difference", t, 0)}
      />
      <text x={W - 34} y={H - 8} textAnchor="end" className="fill-current text-fine opacity-75">
        level, dBA
      </text>
      <line
        x1={xs.at(level)}
        x2={xs.at(level)}
        y1={TOP}
        y2={BOTTOM}
        stroke="currentColor"
        strokeWidth="1.2"
        strokeDasharray="5 4"
      />
      {curves.map((c) => {
        const points = [...c.points].sort((a, b) => a.x - b.x);
        const last = points.at(-1);
        return (
          <g key={c.name}>
            <polyline
              points={points.map((p) => `${xs.at(p.x)},${ys.at(p.y)}`).join(" ")}
              fill="none"
              stroke="var(--color-accent)"
              strokeWidth="1.6"
              opacity="0.7"
            />
            {points.map((p) => (
              <g key={p.name}>
                <line
                  x1={xs.at(p.x)}
                  x2={xs.at(p.x)}
                  y1={ys.at(p.y - p.band)}
                  y2={ys.at(p.y + p.band)}
                  stroke="var(--color-accent)"
                  strokeWidth="4"
                  opacity="0.25"
                />
                <circle cx={xs.at(p.x)} cy={ys.at(p.y)} r="3.2" fill="var(--color-accent)" />
              </g>
            ))}
            {last && (
              <text x={xs.at(last.x) + 7} y={ys.at(last.y) + 5} className="fill-current text-small font-bold">
                {c.name}
              </text>
            )}
          </g>
        );
      })}
      {marks.map((m) => (
        <rect
          key={m.curve}
          x={xs.at(m.x) - 4.5}
          y={ys.at(m.y) - 4.5}
          width="9"
          height="9"
          fill={m.beyond ? "none" : "currentColor"}
          stroke="currentColor"
          strokeDasharray={m.beyond ? "2 2" : undefined}
          data-read={m.curve}
        />
      ))}
    </svg>
  );
}
