import type { Scale } from "./scale";

/** Left and lower edge of a plot with its ticks: lines across for the upright scale, figures under the level one. */
export function Frame(props: {
  xs: Scale;
  ys: Scale;
  left: number;
  right: number;
  top: number;
  bottom: number;
  sayX: (v: number) => string;
  sayY: (v: number) => string;
}) {
  const { xs, ys, left, right, top, bottom } = props;
  return (
    <>
      {ys.ticks.map((t) => (
        <g key={t}>
          <line x1={left} x2={right} y1={ys.at(t)} y2={ys.at(t)} stroke="currentColor" strokeOpacity="0.15" />
          <text x={left - 6} y={ys.at(t) + 4} textAnchor="end" className="fill-current text-tiny opacity-70">
            {props.sayY(t)}
          </text>
        </g>
      ))}
      {xs.ticks.map((t) => (
        <text key={t} x={xs.at(t)} y={bottom + 16} textAnchor="middle" className="fill-current text-tiny opacity-70">
          {props.sayX(t)}
        </text>
      ))}
      <path d={`M${left} ${top}V${bottom}H${right}`} fill="none" stroke="currentColor" strokeOpacity="0.45" />
    </>
  );
}
