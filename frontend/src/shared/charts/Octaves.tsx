import { Frame } from "./Frame";
import { scaleOf } from "./scale";

export type Spectrum = { name: string; bands: readonly (readonly [number, number])[]; leads: boolean };

const W = 640;
const H = 230;
const LEFT = 44;
const BOTTOM = 190;
const TOP = 14;
const NAMED = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];
const DASHES = ["", "6 3", "2 3", "8 3 2 3"];

/** One-third octaves of clips over each other; the one that is looked at as bars. */
export function Octaves({ spectra, words }: { spectra: readonly Spectrum[]; words: string }) {
  const lead = spectra.find((s) => s.leads) ?? spectra[0];
  const heard = spectra.flatMap((s) => s.bands.filter(([hz]) => hz >= 25).map(([, v]) => v));
  const top = Math.max(...heard);
  const ys = scaleOf([top, Math.max(Math.min(...heard), top - 60)], BOTTOM, TOP);
  const first = Math.log(25);
  const last = Math.log(20000);
  const x = (hz: number) => LEFT + 10 + ((Math.log(hz) - first) / (last - first)) * (W - LEFT - 20);
  const y = (v: number) => Math.min(Math.max(ys.at(v), TOP), BOTTOM);
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="h-auto w-full max-w-[720px]" role="img" aria-label={words}>
      <Frame
        xs={{ at: x, ticks: NAMED, low: 25, high: 20000 }}
        ys={ys}
        left={LEFT}
        right={W}
        top={TOP}
        bottom={BOTTOM}
        sayX={(hz) => (hz >= 1000 ? `${hz / 1000}k` : String(hz))}
        sayY={String}
      />
      <text x={W} y={H - 6} textAnchor="end" className="fill-current text-fine opacity-75">
        Hz, one-third octaves
      </text>
      {lead?.bands
        .filter(([hz]) => hz >= 25)
        .map(([hz, v]) => (
          <rect key={hz} x={x(hz) - 7} width="14" y={y(v)} height={BOTTOM - y(v)} fill="var(--color-accent)" fillOpacity="0.55">
            <title>{`${hz} Hz: ${v.toFixed(1)} dB`}</title>
          </rect>
        ))}
      {spectra
        .filter((s) => s !== lead)
        .map((s, i) => {
          const points = s.bands.filter(([hz]) => hz >= 25);
          const end = points.at(-1);
          return (
            <g key={s.name}>
              <polyline
                points={points.map(([hz, v]) => `${x(hz)},${y(v)}`).join(" ")}
                fill="none"
                stroke="currentColor"
                strokeWidth="1.4"
                strokeDasharray={DASHES[i % DASHES.length]}
              />
              {end && (
                <text
                  x={x(end[0]) + 2}
                  y={y(end[1]) - 4 - 11 * i}
                  textAnchor="end"
                  className="fill-current text-tiny font-semibold"
                >
                  {s.name}
                </text>
              )}
            </g>
          );
        })}
    </svg>
  );
}
