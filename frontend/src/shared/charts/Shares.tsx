export type Share = { name: string; share: number; words: string; marks: string | null };

const W = 290;
const ROW = 30;
const TOP = 22;

/** What a whole is made of: one bar of all shares on top, below it each with its own, drawn where it begins in the whole. */
export function Shares(props: { rows: readonly Share[]; words: string; onMark?: (mark: string | null) => void }) {
  const { rows, words, onMark } = props;
  let from = 0;
  const placed = rows.map((r) => {
    const at = from;
    from += r.share;
    return { ...r, at };
  });
  const x = (share: number) => (share * W) / 100;
  return (
    <svg viewBox={`0 0 ${W} ${TOP + placed.length * ROW}`} className="h-auto w-full" role="img" aria-label={words}>
      {placed.map((r, i) => (
        <rect
          key={r.name}
          x={x(r.at)}
          width={Math.max(x(r.share) - 0.8, 0.4)}
          height="12"
          fill="var(--color-accent)"
          fillOpacity={i % 2 ? 0.4 : 0.75}
        />
      ))}
      {placed.map((r, i) => (
        <g
          key={r.name}
          transform={`translate(0 ${TOP + i * ROW})`}
          onPointerEnter={() => onMark?.(r.marks)}
          onPointerLeave={() => onMark?.(null)}
          data-share={r.name}
        >
          <rect width={W} height={ROW} fill="transparent" />
          <text x="0" y="10" className="fill-current text-fine">
            {r.name}
          </text>
          <text x={W} y="10" textAnchor="end" className="fill-current font-mono text-fine">
            {r.words}
          </text>
          <line x1="0" x2={W} y1="18" y2="18" className="stroke-current" strokeOpacity="0.12" />
          <rect
            x={x(r.at)}
            y="14"
            width={Math.max(x(r.share), 1)}
            height="8"
            fill="var(--color-accent)"
            fillOpacity={i % 2 ? 0.4 : 0.75}
          />
        </g>
      ))}
    </svg>
  );
}
