import { scaleOf } from "./scale";

export type StepPoint = { words: string; value: number | null; now: boolean };

const W = 290;
const ROW = 34;
const LEFT = 4;

/** One bar a choice, as long as its figure; the present one is filled, one that cannot be had is said to be none. */
export function Steps({ points, text, words }: { points: StepPoint[]; text: (value: number) => string; words: string }) {
  const values = points.flatMap((p) => (p.value === null ? [] : [p.value]));
  const xs = scaleOf([0, ...values], LEFT, W - 60);
  return (
    <svg viewBox={`0 0 ${W} ${points.length * ROW}`} className="h-auto w-full" role="img" aria-label={words}>
      {points.map((p, i) => (
        <g key={p.words} transform={`translate(0 ${i * ROW})`}>
          <text x={LEFT} y="12" className={`fill-current text-fine ${p.now ? "font-semibold" : ""}`}>
            {p.words}
          </text>
          {p.value !== null && (
            <rect
              x={LEFT}
              y="16"
              width={Math.max(xs.at(p.value) - xs.at(0), 2)}
              height="13"
              fill="var(--color-accent)"
              fillOpacity={p.now ? 0.7 : 0.25}
              stroke="var(--color-accent)"
            />
          )}
          <text
            x={p.value === null ? LEFT : LEFT + Math.max(xs.at(p.value) - xs.at(0), 2) + 4}
            y="27"
            className="fill-current text-fine"
          >
            {p.value === null ? "not even at full speed" : text(p.value)}
          </text>
        </g>
      ))}
    </svg>
  );
}
