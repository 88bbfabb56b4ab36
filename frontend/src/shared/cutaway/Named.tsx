import { memo } from "react";
import type { JobDoc } from "../api/client";
import type { Plan } from "./geometry";
import { sameProps } from "./still";

/** A name as long as there is room for; the whole of it stands in the lists. */
const short = (name: string, most: number) => (name.length <= most ? name : `${name.slice(0, most - 1)}…`);

/** Words that stay readable on whatever lies under them. */
function Outlined({ x, y, u, words }: { x: number; y: number; u: number; words: string }) {
  return (
    <text
      x={x}
      y={y}
      fontSize={11 * u}
      className="fill-base-content"
      stroke="var(--paper)"
      strokeWidth={3 * u}
      paintOrder="stroke"
    >
      {words}
    </text>
  );
}

/** Zones: boxes with a name, as seen through the window side. */
export const Zones = memo(function Zones(props: { plan: Plan; zones: JobDoc["zones"]; large?: boolean }) {
  const { plan, zones } = props;
  const u = plan.u * (props.large ? 1.4 : 1);
  return (
    <g pointerEvents="none">
      {(zones ?? []).map((z) => {
        const a = plan.at(z.from_mm.x, z.from_mm.z);
        const b = plan.at(z.to_mm.x, z.to_mm.z);
        const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)];
        return (
          <g key={z.id} data-zone={z.id}>
            <rect
              x={x}
              y={y}
              width={Math.abs(a.x - b.x)}
              height={Math.abs(a.y - b.y)}
              fill="none"
              className="stroke-base-content"
              strokeOpacity={0.75}
              strokeWidth={1.4 * u}
              strokeDasharray={`${5 * u} ${4 * u}`}
            />
            <Outlined x={x + 5 * u} y={y + 13 * u} u={u} words={short(z.name || z.id, 24)} />
          </g>
        );
      })}
    </g>
  );
}, sameProps);

/** Named points: where a probe hangs or a criterion holds. */
export const Points = memo(function Points(props: { plan: Plan; points: JobDoc["points"]; large?: boolean }) {
  const { plan, points } = props;
  const u = plan.u * (props.large ? 1.7 : 1);
  return (
    <g pointerEvents="none">
      {(points ?? []).map((p) => {
        const at = plan.at(p.at_mm.x, p.at_mm.z);
        return (
          <g key={p.id} data-point={p.id}>
            <circle
              cx={at.x}
              cy={at.y}
              r={7.5 * u}
              className={`fill-paper ${p.critical ? "stroke-error" : "stroke-base-content"}`}
              strokeWidth={1.6 * u}
            />
            <text x={at.x} y={at.y + 3.6 * u} textAnchor="middle" fontSize={10 * u} className="fill-base-content">
              {p.sensor ?? "•"}
            </text>
            <Outlined x={at.x + 11 * u} y={at.y + 4 * u} u={u} words={short(p.name || p.id, 28)} />
          </g>
        );
      })}
    </g>
  );
}, sameProps);
