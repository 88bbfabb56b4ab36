import { useUnits } from "../units/units";
import { Frame } from "./Frame";
import { scaleOf } from "./scale";

export type Spot = {
  name: string;
  x: number;
  y: number;
  xBand: number;
  yBand: number;
  kept: boolean;
  chosen: boolean;
  open?: boolean;
};
type Axis = { words: string; kind: "difference" | "level"; limit?: number | null };

const W = 400;
const H = 268;
const LEFT = 44;
const BOTTOM = 226;
const TOP = 24;

/** Layouts by two figures, each with its uncertainty as an ellipse; `steps` joins those that no other beats in both. */
export function Scatter(props: {
  spots: Spot[];
  x: Axis;
  y: Axis;
  steps?: string[];
  level?: boolean;
  /** A level of y that all others are held against, such as the open bench. */
  zero?: { at: number; words: string } | null;
}) {
  const { spots, x, y, steps, level, zero } = props;
  const units = useUnits();
  const xs = scaleOf([...spots.flatMap((s) => [s.x - s.xBand, s.x + s.xBand]), ...(x.limit ? [x.limit] : [])], LEFT, W - 8);
  const ys = scaleOf([...spots.flatMap((s) => [s.y - s.yBand, s.y + s.yBand]), ...(zero ? [zero.at] : [])], BOTTOM, TOP);
  const [low, high] = [Math.max(xs.low, ys.low), Math.min(xs.high, ys.high)];
  const front = spots.filter((s) => steps?.includes(s.name)).sort((a, b) => a.x - b.x);
  const path = front.map((s, i) => (i ? `H${xs.at(s.x)}V${ys.at(s.y)}` : `M${xs.at(s.x)} ${TOP}V${ys.at(s.y)}`)).join("");
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="h-auto w-full max-w-[520px]"
      role="img"
      aria-label={`${y.words} against ${x.words}`}
    >
      <Frame
        xs={xs}
        ys={ys}
        left={LEFT}
        right={W - 8}
        top={TOP}
        bottom={BOTTOM}
        sayX={(t) => units.text(x.kind, t, 0)}
        sayY={(t) => units.text(y.kind, t, 0)}
      />
      {zero && (
        <g data-zero-line={zero.at}>
          <line
            x1={LEFT}
            x2={W - 8}
            y1={ys.at(zero.at)}
            y2={ys.at(zero.at)}
            stroke="var(--pine)"
            strokeWidth="1.6"
            strokeDasharray="6 3"
          />
          <text
            x={W - 10}
            y={ys.at(zero.at) - 4}
            textAnchor="end"
            className="fill-pine text-tiny"
            stroke="var(--paper)"
            strokeWidth="4"
            paintOrder="stroke"
          >
            {zero.words}
          </text>
        </g>
      )}
      <text x={W - 8} y={H - 6} textAnchor="end" className="fill-current text-fine opacity-75">
        {x.words}, {x.kind === "level" ? "dBA" : units.unit(x.kind)}
      </text>
      <text x={LEFT - 30} y={TOP - 10} className="fill-current text-fine opacity-75">
        {y.words}, {units.unit(y.kind)}
      </text>
      {x.limit && (
        <g className="text-error">
          <line
            x1={xs.at(x.limit)}
            x2={xs.at(x.limit)}
            y1={TOP}
            y2={BOTTOM}
            stroke="currentColor"
            strokeWidth="1.5"
            strokeDasharray="5 4"
          />
          <text x={xs.at(x.limit) + 5} y={BOTTOM - 6} className="fill-current text-tiny">
            limit
          </text>
        </g>
      )}
      {level && low < high && (
        <line
          x1={xs.at(low)}
          y1={ys.at(low)}
          x2={xs.at(high)}
          y2={ys.at(high)}
          stroke="currentColor"
          strokeOpacity="0.4"
          strokeDasharray="2 4"
        />
      )}
      {path && <path d={`${path}H${W - 8}`} fill="none" stroke="currentColor" strokeWidth="1.8" />}
      {spots.map((s) => (
        <g key={s.name} opacity={s.kept ? 1 : 0.5} data-spot={s.name}>
          <ellipse
            cx={xs.at(s.x)}
            cy={ys.at(s.y)}
            rx={Math.max(xs.at(s.x + s.xBand) - xs.at(s.x), 2)}
            ry={Math.max(ys.at(s.y) - ys.at(s.y + s.yBand), 2)}
            fill="var(--color-accent)"
            fillOpacity={s.open ? 0 : 0.2}
            stroke="var(--color-accent)"
            strokeOpacity="0.5"
            strokeDasharray={s.open ? "3 3" : undefined}
          />
          <text
            x={xs.at(s.x)}
            y={ys.at(s.y) + 5}
            textAnchor="middle"
            className={`fill-current text-body ${s.chosen ? "font-extrabold" : "font-semibold"}`}
            textDecoration={s.chosen ? "underline" : undefined}
          >
            {s.name}
          </text>
        </g>
      ))}
    </svg>
  );
}
