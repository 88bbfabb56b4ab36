import { memo, useCallback, useEffect, useRef } from "react";
import { usual } from "@/shared/words/words";
import type { FanPlace, JobDoc, LayoutDoc, LayoutForecast, MountDoc } from "../api/client";
import { fansAt, layerOf } from "../job/edits";
import { useUnits } from "../units/units";
import { FOLD, type Plan, sizeOf } from "./geometry";
import { sameProps } from "./still";

type Props = {
  plan: Plan;
  doc: JobDoc;
  layout: LayoutDoc | undefined;
  forecast: LayoutForecast | undefined;
  chosen: string | null;
  marked?: string | null;
  onChoose: (mount: string) => void;
  grabFocus?: boolean;
  bare?: boolean;
};

type FanFlow = LayoutForecast["fans"][number];

/** Every mount of the case in place; each can be clicked or walked to with the keyboard. */
export function Mounts(props: Props) {
  const { plan, doc, layout, forecast, chosen } = props;
  const mounts = doc.case.mounts ?? [];
  const places = layout?.radiator ? [layout.radiator] : (layout?.loops ?? []).flatMap((l) => l.radiators ?? []);
  const latest = useRef(props.onChoose);
  latest.current = props.onChoose;
  const choose = useCallback((mount: string) => latest.current(mount), []);
  const at = (id: string) => ({
    fans: layout ? fansAt(layout, id) : [],
    own: forecast?.fans.find((f) => f.mount === id),
    turning: (layout ? fansAt(layout, id) : []).map(
      (f): Turning =>
        forecast?.fans.find((x) => x.mount === id && x.layer === layerOf(f))?.turning ??
        (f.state === "unplugged" ? "unplugged" : "runs"),
    ),
    radiator: places.find((r) => r.mounts.includes(id))?.radiator,
  });
  return (
    <g>
      {mounts.map((m, i) => (
        <Mount
          key={m.id}
          {...at(m.id)}
          mount={m}
          plan={plan}
          parts={doc.parts}
          on={chosen === m.id}
          reachable={chosen === m.id || (!chosen && i === 0)}
          marked={props.marked === m.id}
          onChoose={choose}
          grabFocus={props.grabFocus}
        />
      ))}
      {!props.bare &&
        mounts
          .filter((m) => m.face !== "window")
          .map((m) => <Words key={m.id} mount={m} plan={plan} fan={at(m.id).fans[0]} own={at(m.id).own} />)}
    </g>
  );
}

type Turning = FanFlow["turning"];
const turningWords = { runs: "", off: ", off at this load", unplugged: ", not plugged in" };

const wayWords = (f: FanPlace) => (f.direction === "intake" ? "blowing in" : "blowing out");

type MountProps = {
  mount: MountDoc;
  plan: Plan;
  parts: JobDoc["parts"];
  fans: FanPlace[];
  own: FanFlow | undefined;
  turning: Turning[];
  radiator: string | undefined;
  on: boolean;
  reachable: boolean;
  marked: boolean;
  onChoose: (mount: string) => void;
  grabFocus?: boolean;
};

const Mount = memo(function Mount(props: MountProps) {
  const { mount, plan, parts, fans, own, turning, on, onChoose, grabFocus } = props;
  const units = useUnits();
  const ref = useRef<SVGGElement>(null);
  useEffect(() => {
    if (on && grabFocus && document.activeElement?.closest("[data-keys='drawing']")) ref.current?.focus();
  }, [on, grabFocus]);
  const said = fans.length
    ? fans
        .map(
          (f, i) =>
            `${parts?.fans?.find((p) => p.id === f.fan)?.name ?? f.fan} ${wayWords(f)} at ${f.speed_pct ?? usual("layouts.*.fans.*.speed_pct")} %${turningWords[turning[i] ?? "runs"]}`,
        )
        .join(", ")
    : "empty";
  const { wall } = plan.gate(mount);
  const label = `Mount ${mount.id.toUpperCase()}, ${mount.face}: ${said}${own ? `, ${units.withUnit("flow", own.flow_m3h)}` : ""}`;
  return (
    <g
      ref={ref}
      role="button"
      tabIndex={props.reachable ? 0 : -1}
      aria-label={label}
      aria-pressed={on}
      data-mount={mount.id}
      className="cursor-pointer outline-none"
      onClick={() => onChoose(mount.id)}
      onFocus={() => !on && onChoose(mount.id)}
      onKeyDown={(e) => {
        if (e.key !== " ") return;
        e.preventDefault();
        onChoose(mount.id);
      }}
    >
      <g transform={`rotate(${plan.lean(mount)} ${wall.x} ${wall.y})`}>
        {mount.face === "window" ? (
          <FoldedMount mount={mount} plan={plan} fans={fans} turning={turning} />
        ) : (
          <EdgeMount mount={mount} plan={plan} parts={parts} fans={fans} turning={turning} radiator={props.radiator} />
        )}
        <Around mount={mount} plan={plan} kind={on ? "chosen" : props.marked ? "marked" : null} />
      </g>
    </g>
  );
}, sameProps);

type EdgeProps = Pick<MountProps, "mount" | "plan" | "parts" | "fans" | "turning" | "radiator">;

function EdgeMount({ mount, plan, parts, fans, turning, radiator }: EdgeProps) {
  const { u } = plan;
  const along = sizeOf(mount);
  const thick = parts?.radiators?.find((r) => r.id === radiator)?.thickness_mm ?? usual("parts.radiators.*.thickness_mm");
  const hasOuter = fans.some((f) => layerOf(f) === "outer");
  if (!fans.length) {
    const box = plan.onFace(mount, along, radiator ? thick : 0, (radiator ? thick : 0) + 22);
    return (
      <rect
        x={box.x}
        y={box.y}
        width={box.w}
        height={box.h}
        fill="var(--paper)"
        fillOpacity={radiator ? 0.2 : 0.55}
        stroke="currentColor"
        strokeOpacity="0.55"
        strokeDasharray={`${4 * u} ${4 * u}`}
      />
    );
  }
  return fans.map((f, i) => {
    const state = turning[i] ?? "runs";
    const inner = layerOf(f) === "inner";
    const start = inner ? (radiator ? thick + (hasOuter ? 26 : 0) : hasOuter ? 26 : 0) : 0;
    const size = parts?.fans?.find((p) => p.id === f.fan);
    const box = plan.onFace(
      mount,
      Math.min(size?.size_mm ?? along, along * 1.02),
      start,
      start + Math.max(size?.thickness_mm ?? usual("parts.fans.*.thickness_mm"), 22),
    );
    const colour = state !== "runs" ? "currentColor" : f.direction === "intake" ? "var(--pine)" : "var(--copper)";
    const c = { x: box.x + box.w / 2, y: box.y + box.h / 2 };
    const { inward } = plan.gate(mount);
    const angle = (Math.atan2(inward.y, inward.x) * 180) / Math.PI + (f.direction === "intake" ? 0 : 180);
    const r = 8 * u;
    return (
      <g key={layerOf(f)} data-fan={f.direction} data-turning={state} opacity={state !== "runs" ? 0.6 : 1}>
        <rect x={box.x} y={box.y} width={box.w} height={box.h} fill="var(--paper)" stroke={colour} strokeWidth={2.2 * u} rx={2} />
        <line
          x1={box.w > box.h ? box.x + 5 : c.x}
          x2={box.w > box.h ? box.x + box.w - 5 : c.x}
          y1={box.w > box.h ? c.y : box.y + 5}
          y2={box.w > box.h ? c.y : box.y + box.h - 5}
          stroke={colour}
          strokeDasharray={`${4 * u} ${4 * u}`}
        />
        <circle cx={c.x} cy={c.y} r={r} fill={colour} />
        <g transform={`translate(${c.x} ${c.y}) rotate(${angle})`}>
          {state === "runs" ? (
            <path d={`M${-3 * u} ${-4 * u}L${4.5 * u} 0L${-3 * u} ${4 * u}Z`} fill="var(--paper)" />
          ) : (
            <rect x={-1.2 * u} y={-4.5 * u} width={2.4 * u} height={9 * u} fill="var(--paper)" />
          )}
        </g>
      </g>
    );
  });
}

/** A side-panel mount in the fold-out beside the drawing: a dot comes towards the person, a cross goes away. */
function FoldedMount({ mount, plan, fans, turning }: Pick<MountProps, "mount" | "plan" | "fans" | "turning">) {
  const { x, y, size } = folded(plan, mount);
  const fan = fans[0];
  const still = turning[0] === "off" || turning[0] === "unplugged";
  const colour = !fan || still ? "currentColor" : fan.direction === "intake" ? "var(--pine)" : "var(--copper)";
  return (
    <g>
      <rect
        x={x - size / 2}
        y={y - size / 2}
        width={size}
        height={size}
        rx={size * 0.1}
        fill="var(--paper)"
        stroke={colour}
        strokeDasharray={fan ? undefined : "4 4"}
        strokeWidth={2}
      />
      {fan && <circle cx={x} cy={y} r={size * 0.4} fill="none" stroke={colour} strokeDasharray="4 3" />}
      <text x={x} y={y + 4 * plan.u} textAnchor="middle" fontSize={11 * plan.u} fill={colour}>
        {mount.id.toUpperCase()} {!fan ? "" : still ? "still" : fan.direction === "intake" ? "in" : "out"}
      </text>
    </g>
  );
}

function folded(plan: Plan, mount: MountDoc) {
  const c = plan.at(mount.centre_mm.x, mount.centre_mm.z);
  const left = -plan.depth * FOLD - 116 * plan.u;
  return { x: left + c.x * FOLD, y: plan.height * 0.5 + c.y * FOLD, size: sizeOf(mount) * FOLD };
}

/** The window panel, folded out to the left, when it carries mounts. */
export function FoldOut({ plan }: { plan: Plan }) {
  if (!plan.windowMounts.length) return null;
  const left = -plan.depth * FOLD - 116 * plan.u;
  return (
    <g aria-hidden="true">
      <rect
        x={left}
        y={plan.height * 0.5}
        width={plan.depth * FOLD}
        height={plan.height * FOLD}
        fill="none"
        stroke="currentColor"
      />
      <text x={left} y={plan.height * 0.5 - 6 * plan.u} fontSize={11.5 * plan.u} fill="currentColor" opacity="0.7">
        window panel, folded out
      </text>
    </g>
  );
}

function Around({ mount, plan, kind }: { mount: MountDoc; plan: Plan; kind: "chosen" | "marked" | null }) {
  if (!kind) return null;
  const { u } = plan;
  const pad = 6 * u;
  const f = mount.face === "window" ? folded(plan, mount) : null;
  const b = f ? { x: f.x - f.size / 2, y: f.y - f.size / 2, w: f.size, h: f.size } : plan.onFace(mount, sizeOf(mount), 0, 30);
  return (
    <rect
      x={b.x - pad}
      y={b.y - pad}
      width={b.w + 2 * pad}
      height={b.h + 2 * pad}
      rx={4 * u}
      fill="none"
      stroke={kind === "chosen" ? "var(--color-base-content)" : "var(--color-accent)"}
      pointerEvents="none"
      strokeWidth={2.2 * u}
      strokeDasharray={kind === "chosen" ? `${6 * u} ${3 * u}` : undefined}
    />
  );
}

/** Flow and speed beside a mount, outside of the case. */
const Words = memo(function Words(props: { mount: MountDoc; plan: Plan; fan: FanPlace | undefined; own: FanFlow | undefined }) {
  const { mount, plan, fan, own } = props;
  const units = useUnits();
  const { u } = plan;
  const { wall, inward } = plan.gate(mount);
  const colour = fan?.direction === "exhaust" ? "var(--copper)" : "var(--pine)";
  const upright = inward.y !== 0;
  const out = upright ? 26 * u : 20 * u;
  const inside = mount.on_shroud;
  const x = wall.x - inward.x * out + (upright ? 36 * u : 0);
  const y = inside ? wall.y + 14 * u : wall.y - inward.y * out + (upright ? (inward.y > 0 ? -8 * u : 8 * u) : -16 * u);
  const anchor = upright ? "middle" : inward.x < 0 ? "start" : "end";
  return (
    <g aria-hidden="true" pointerEvents="none">
      {own && (
        <text x={x} y={y} textAnchor={anchor} fontSize={13 * u} fontWeight="650" fill={colour} data-flow-of={mount.id}>
          {units.withUnit("flow", own.flow_m3h)}
        </text>
      )}
      <text
        x={x}
        y={upright ? y + (inward.y > 0 ? 14 : 14) * u : y + (own ? 46 : 36) * u}
        textAnchor={anchor}
        fontSize={11.5 * u}
        className="font-mono"
        fill="currentColor"
        opacity="0.7"
      >
        {mount.id.toUpperCase()}{" "}
        {fan?.state === "unplugged" ? "no lead" : own?.turning === "off" ? "off" : own ? units.text("speed", own.speed_rpm) : ""}
      </text>
    </g>
  );
}, sameProps);
