import { type Kind, useUnits } from "../units/units";
import { scaleOf } from "./scale";

export type Bar = { from: string; to: string; by: number; band: number; shown: boolean; words: string };

const H = 276;
const TOP = 26;
const BOTTOM = 196;

/** A figure from one layout to another, one step after another; steps that are not shown are pale and bracketed. */
export function Waterfall({
  start,
  end,
  startValue,
  endValue,
  bars,
  kind = "difference",
  more = "warmer",
}: {
  start: string;
  end: string;
  startValue: number;
  endValue: number;
  bars: Bar[];
  kind?: Kind;
  more?: string; // what a step up is
}) {
  const units = useUnits();
  const n = bars.length + 2;
  const W = Math.max(400, n * 74);
  const wide = (W - 16) / n;
  let level = startValue;
  const rows = bars.map((b) => {
    const was = level;
    level += b.by;
    return { ...b, was, now: level };
  });
  const scale = scaleOf([startValue, endValue, ...rows.map((r) => r.now)], BOTTOM, TOP, 2);
  const x = (i: number) => 8 + i * wide + wide * 0.12;
  const w = wide * 0.76;
  const pillar = (i: number, value: number, name: string) => (
    <g>
      <rect x={x(i)} width={w} y={scale.at(value)} height={BOTTOM - scale.at(value)} fill="currentColor" fillOpacity="0.62" />
      <text x={x(i) + w / 2} y={scale.at(value) - 7} textAnchor="middle" className="fill-current text-fine font-semibold">
        {units.text(kind, value, 1)}
      </text>
      <text x={x(i) + w / 2} y={BOTTOM + 17} textAnchor="middle" className="fill-current text-small font-bold">
        {name}
      </text>
    </g>
  );
  const legend = [
    units.unit(kind),
    `the axis begins at ${units.text(kind, scale.low, 0)}`,
    rows.some((r) => r.by > 0) && `dashed: ${more}`,
    rows.some((r) => !r.shown) && "in brackets: not shown",
  ]
    .filter(Boolean)
    .join("; ");
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="h-auto w-full"
      style={{ maxWidth: Math.max(520, n * 84) }}
      role="img"
      aria-label={`From ${start} to ${end}`}
    >
      <line x1="8" x2={W - 8} y1={BOTTOM} y2={BOTTOM} stroke="currentColor" strokeOpacity="0.45" />
      <text x="10" y={H - 4} className="fill-current text-tiny opacity-70">
        {legend}
      </text>
      {pillar(0, startValue, start)}
      {rows.map((r, i) => {
        const top = Math.min(scale.at(r.was), scale.at(r.now));
        const tall = Math.max(Math.abs(scale.at(r.was) - scale.at(r.now)), 2);
        const below = top + tall + 16 < BOTTOM;
        return (
          <g key={`${r.from}${r.to}`} data-step={`${r.from} ${r.to}`}>
            <line
              x1={x(i) + w}
              x2={x(i + 1)}
              y1={scale.at(r.was)}
              y2={scale.at(r.was)}
              stroke="currentColor"
              strokeOpacity="0.5"
            />
            <rect
              x={x(i + 1)}
              width={w}
              y={top}
              height={tall}
              fill={r.shown ? "var(--color-accent)" : "currentColor"}
              fillOpacity={r.shown ? 0.85 : 0.25}
              strokeDasharray="4 3"
              stroke={r.by > 0 ? "currentColor" : "none"}
            />
            <text
              x={x(i + 1) + w / 2}
              y={below ? top + tall + 14 : top - 6}
              textAnchor="middle"
              className="fill-current text-fine font-semibold"
            >
              {r.shown ? units.signed(kind, r.by, 1) : `(${units.signed(kind, r.by, 1)})`}
            </text>
            <text x={x(i + 1) + w / 2} y={BOTTOM + 17} textAnchor="middle" className="fill-current text-small">
              to {r.to}
            </text>
            <Wrapped x={x(i + 1) + w / 2} y={BOTTOM + 32} words={r.words} width={Math.floor(wide / 6.2)} />
          </g>
        );
      })}
      <line
        x1={x(bars.length) + w}
        x2={x(n - 1)}
        y1={scale.at(level)}
        y2={scale.at(level)}
        stroke="currentColor"
        strokeOpacity="0.5"
      />
      {pillar(n - 1, endValue, end)}
    </svg>
  );
}

/** Words under a bar, at most three lines. */
function Wrapped({ x, y, words, width }: { x: number; y: number; words: string; width: number }) {
  const lines: string[] = [];
  for (const word of words.split(" ")) {
    const last = lines.at(-1);
    if (last !== undefined && `${last} ${word}`.length <= width) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  const shown = lines.length > 3 ? [...lines.slice(0, 2), `${lines[2]} …`] : lines;
  return (
    <text x={x} y={y} textAnchor="middle" className="fill-current text-tiny opacity-75">
      {shown.map((line, i) => (
        <tspan key={line} x={x} dy={i ? 12.5 : 0}>
          {line}
        </tspan>
      ))}
    </text>
  );
}
