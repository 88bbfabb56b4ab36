import { useMemo } from "react";
import { useUnits } from "../units/units";
import { Frame } from "./Frame";
import { scaleOf } from "./scale";

export type Dot = { x: number; y: number; kept: boolean };
export type Mark = { name: string; x: number; y: number; chosen: boolean; letter: boolean };

const W = 460;
const H = 320;
const LEFT = 44;
const TOP = 26;
const BOTTOM = 280;

/** Every layout as a dot, level against rise; what no other beats is joined by steps, layouts that are drawn carry their letters. */
export function Cloud(props: {
  dots: Dot[];
  front: Mark[];
  drawn: Mark[];
  y: string;
  limitDba: number | null;
  limitK: number | null;
  onMark?: (name: string) => void;
}) {
  const { dots, front, drawn, limitDba, limitK } = props;
  const units = useUnits();
  const all = useMemo(() => [...dots, ...front, ...drawn], [dots, front, drawn]);
  const xs = scaleOf(
    all.map((d) => d.x),
    LEFT,
    W - 8,
  );
  const ys = scaleOf(
    all.map((d) => d.y),
    BOTTOM,
    TOP,
  );
  const [near, far] = useMemo(() => places(dots, xs.at, ys.at), [dots, xs.at, ys.at]);
  const steps = stepsOf(front);
  const path = steps.map((s, i) => (i ? `H${xs.at(s.x)}V${ys.at(s.y)}` : `M${xs.at(s.x)} ${TOP}V${ys.at(s.y)}`)).join("");
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="h-auto w-full"
      role="img"
      aria-label={`${props.y} against sound, every layout a dot`}
      data-dots={dots.length}
    >
      <Frame
        xs={xs}
        ys={ys}
        left={LEFT}
        right={W - 8}
        top={TOP}
        bottom={BOTTOM}
        sayX={(t) => units.text("level", t, 0)}
        sayY={(t) => units.text("difference", t, 0)}
      />
      <path d={far} stroke="currentColor" strokeOpacity="0.16" strokeWidth="2" fill="none" />
      <path d={near} stroke="var(--color-accent)" strokeOpacity="0.55" strokeWidth="2" fill="none" />
      {path && <path d={path} fill="none" stroke="currentColor" strokeWidth="1.6" />}
      {limitDba !== null && limitDba > xs.low && limitDba < xs.high && (
        <line
          x1={xs.at(limitDba)}
          x2={xs.at(limitDba)}
          y1={TOP}
          y2={BOTTOM}
          stroke="var(--color-error)"
          strokeWidth="1.500"
          strokeDasharray="5 4"
        />
      )}
      {limitK !== null && limitK > ys.low && limitK < ys.high && (
        <line
          x1={LEFT}
          x2={W - 8}
          y1={ys.at(limitK)}
          y2={ys.at(limitK)}
          stroke="var(--color-error)"
          strokeWidth="1.500"
          strokeDasharray="5 4"
        />
      )}
      {front.map((m) => (
        <circle
          key={m.name}
          cx={xs.at(m.x)}
          cy={ys.at(m.y)}
          r={m.chosen ? 6 : 3.5}
          fill={m.chosen ? "currentColor" : "var(--paper)"}
          stroke="currentColor"
          strokeWidth="1.400"
          className="cursor-pointer"
          onClick={() => props.onMark?.(m.name)}
          data-front={m.name}
        />
      ))}
      {drawn.map((m) => (
        <text
          key={m.name}
          x={xs.at(m.x)}
          y={ys.at(m.y) + 5}
          textAnchor="middle"
          className={`fill-current text-body ${m.chosen ? "font-extrabold" : "font-semibold"}`}
          textDecoration={m.chosen ? "underline" : undefined}
          stroke="var(--paper)"
          strokeWidth="4"
          paintOrder="stroke"
        >
          {m.name}
        </text>
      ))}
      <text x={W - 8} y={H - 8} textAnchor="end" className="fill-current text-fine opacity-75">
        sound, dBA
      </text>
      <text x={LEFT - 34} y={TOP - 12} className="fill-current text-fine opacity-75">
        {props.y}, {units.unit("difference")} over room
      </text>
    </svg>
  );
}

/** Dots as two paths, within the limits and beyond: one stroke for each place of the drawing, however many layouts share it. */
function places(dots: Dot[], x: (v: number) => number, y: (v: number) => number): [string, string] {
  const near = new Set<string>();
  const far = new Set<string>();
  for (const d of dots) (d.kept ? near : far).add(`M${Math.round(x(d.x))} ${Math.round(y(d.y))}h2`);
  return [[...near].join(""), [...far].filter((p) => !near.has(p)).join("")];
}

/** Of marks those that no other beats in both figures, from the quietest on. */
function stepsOf(marks: Mark[]): Mark[] {
  const found: Mark[] = [];
  for (const m of [...marks].sort((a, b) => a.x - b.x || a.y - b.y))
    if (!found.length || m.y < (found.at(-1)?.y ?? m.y)) found.push(m);
  return found;
}
