import { scaleOf } from "./scale";

export type ControlPoint = { words: string; value: number; outside: boolean; failed: boolean };

const W = 520;
const H = 150;
const LEFT = 44;

/** Units in the order they came; the band of the batch's own scatter, three standard deviations either way, where it is known. */
export function Control(props: {
  points: ControlPoint[];
  centre: number | null;
  sigma: number | null;
  text: (value: number) => string;
  words: string;
}) {
  const { points, centre, sigma } = props;
  const band = centre !== null && sigma !== null ? [centre - 3 * sigma, centre + 3 * sigma] : [];
  const ys = scaleOf([0, ...band, ...points.map((p) => p.value)], H - 24, 12);
  const x = (i: number) => LEFT + 14 + (i * (W - LEFT - 28)) / Math.max(points.length - 1, 1);
  const [low, high] = band;
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="h-auto w-full" role="img" aria-label={props.words}>
      {low !== undefined && high !== undefined && (
        <rect
          x={LEFT}
          width={W - LEFT}
          y={ys.at(high)}
          height={ys.at(low) - ys.at(high)}
          fill="var(--color-secondary)"
          fillOpacity="0.12"
        />
      )}
      {ys.ticks.map((t) => (
        <g key={t}>
          <line x1={LEFT} x2={W} y1={ys.at(t)} y2={ys.at(t)} stroke="currentColor" strokeOpacity={t === 0 ? 0.6 : 0.15} />
          <text x={LEFT - 6} y={ys.at(t) + 4} textAnchor="end" className="fill-current text-tiny opacity-70">
            {props.text(t)}
          </text>
        </g>
      ))}
      {points.map((p, i) => (
        <g key={p.words}>
          <title>{`${p.words}: ${props.text(p.value)}`}</title>
          {p.failed ? (
            <path
              d={`M${x(i) - 5} ${ys.at(p.value) - 5}l10 10m0 -10l-10 10`}
              stroke="var(--color-error)"
              strokeWidth="2.500"
              fill="none"
            />
          ) : (
            <circle cx={x(i)} cy={ys.at(p.value)} r="4.500" fill={p.outside ? "var(--color-warning)" : "currentColor"} />
          )}
          <text x={x(i)} y={H - 6} textAnchor="middle" className="fill-current text-tiny opacity-70">
            {p.words.length > 9 ? `${p.words.slice(0, 8)}…` : p.words}
          </text>
        </g>
      ))}
    </svg>
  );
}
