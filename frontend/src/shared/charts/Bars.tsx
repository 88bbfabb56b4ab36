import { num } from "@/shared/words/lists";
export type BarRow = { name: string; values: (number | null)[] };

const LEFT = 34;
const ROW = 15;

/** One group of bars a row, each series in its own shade, figures at their ends. */
export function Bars({ rows, series, digits, label }: { rows: BarRow[]; series: string[]; digits: number; label: string }) {
  const most = Math.max(...rows.flatMap((r) => r.values.map((v) => num(v))), 1e-9);
  const tall = series.length * ROW + 8;
  const H = rows.length * tall + 22;
  const wide = (v: number) => (v / most) * 290;
  return (
    <svg viewBox={`0 0 400 ${H}`} className="h-auto w-full max-w-[520px]" role="img" aria-label={label}>
      {rows.map((r, i) => (
        <g key={r.name} transform={`translate(0 ${i * tall})`}>
          <text x="4" y={tall / 2 + 2} className="fill-current text-small font-bold">
            {r.name}
          </text>
          {r.values.map((v, j) =>
            v === null ? null : (
              <g key={series[j]}>
                <rect
                  x={LEFT}
                  y={j * ROW + 3}
                  width={wide(v)}
                  height={ROW - 4}
                  fill={j ? "currentColor" : "var(--color-accent)"}
                  fillOpacity={j ? 0.45 : 0.75}
                />
                <text x={LEFT + wide(v) + 5} y={j * ROW + ROW - 3} className="fill-current text-tiny">
                  {v.toFixed(digits)}
                </text>
              </g>
            ),
          )}
        </g>
      ))}
      {series.map((words, j) => (
        <g key={words} transform={`translate(${LEFT + j * 150} ${H - 12})`}>
          <rect width="10" height="10" fill={j ? "currentColor" : "var(--color-accent)"} fillOpacity={j ? 0.45 : 0.75} />
          <text x="15" y="9" className="fill-current text-tiny">
            {words}
          </text>
        </g>
      ))}
    </svg>
  );
}
