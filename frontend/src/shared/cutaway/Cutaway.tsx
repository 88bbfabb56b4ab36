import { type ContextType, memo, useId, useMemo, useRef } from "react";
import { num } from "@/shared/words/lists";
import type { Finding, JobDoc, LayoutDoc, LayoutForecast } from "../api/client";
import { gathered } from "../job/findings";
import { useUnits } from "../units/units";
import { Plan, sizeOf } from "./geometry";
import { Furniture, Panels, Radiators, SpaceChips, Spaces, Ways } from "./Inside";
import { FoldOut, Mounts } from "./Mounts";
import { Points, Zones } from "./Named";
import { useMovingAir } from "./pace";
import { laid } from "./photo";
import { Streams } from "./Streams";
import { sameProps } from "./still";
import { drawnStreams } from "./streams";
import { HandsContext } from "./Touch";

type Props = {
  doc: JobDoc;
  layout?: LayoutDoc;
  forecast?: LayoutForecast;
  findings?: Finding[];
  chosen?: string | null;
  marked?: string | null;
  onChoose?: (mount: string) => void;
  grabFocus?: boolean;
  litFace?: string | null;
  /** While a forecast is being worked out the moving air holds still, which leaves the machine to the forecast. */
  busy?: boolean;
  /** Concentration of smoke per space, shown instead of temperature; a click on a space lets it out there. */
  smoke?: Record<string, number>;
  onSpace?: (space: string) => void;
  title: string;
  /** Numbered pins of what was seen; a touch of the drawing gives a place in the case's millimetres. */
  pins?: { x_mm: number; z_mm: number; n: number; words: string }[];
  onPlace?: (x_mm: number, z_mm: number) => void;
  /** A small drawing leaves out what could not be read at its size: figures, names in parts, the ruler. */
  small?: boolean;
  /** Zones are shown where they are typed, probed or asked about; elsewhere they would be in the way. */
  zones?: boolean;
  /** How much of the photograph behind the drawing is seen, 0 to 1. */
  photo?: number;
  /** What can be chosen beside a mount, where the drawing is one to work in. */
  hands?: ContextType<typeof HandsContext>;
  measured?: { mount: string; needed_mm: number; there_mm: number } | null;
};

const SHAPE = {
  error: "M0 -13L12 8H-12Z",
  warning: "M0 14C-4 6 -10 2 -10 -4A10 10 0 1 1 10 -4C10 2 4 6 0 14Z",
  note: "M-9 -9H9V9H-9Z",
} as const;

/** The case to scale as seen through the window side, drawn from data; the signature of the product. */
export function Cutaway(props: Props) {
  const { doc, layout, forecast } = props;
  const plan = useMemo(() => new Plan(doc.case), [doc.case]);
  const streams = useMemo(() => drawnStreams(plan, forecast), [plan, forecast]);
  const { u } = plan;
  const svg = useRef<SVGSVGElement>(null);
  const inside = useId();
  useMovingAir(svg, props.busy === true || !streams.length);
  const roomC = forecast ? forecast.cpu.temperature_c - forecast.cpu.rise_k : 22;
  return (
    <svg
      ref={svg}
      viewBox={plan.viewBox}
      className="h-full w-full"
      role="group"
      aria-label={props.title}
      data-keys="drawing"
      data-streams={streams.length}
    >
      <title>{props.title}</title>
      <HandsContext value={props.hands ?? null}>
        <g {...(plan.mirrored ? { transform: `translate(${plan.depth} 0) scale(-1 1)`, "data-mirrored": "yes" } : {})}>
          <FoldOut plan={plan} />
          <clipPath id={inside}>
            <path d={plan.outline} />
          </clipPath>
          <path d={plan.outline} fill="var(--heat-cold)" />
          <g clipPath={`url(#${inside})`}>
            <Spaces plan={plan} forecast={forecast} roomC={roomC} smoke={props.smoke} />
          </g>
          {props.photo && doc.case.photo && <Backdrop plan={plan} photo={doc.case.photo} share={props.photo} />}
          <g clipPath={`url(#${inside})`}>
            <Furniture plan={plan} doc={doc} layout={layout} bare={props.small} />
          </g>
          <path d={plan.outline} data-outline={plan.outline} fill="none" stroke="currentColor" strokeWidth={2.2 * u} />
          <Ways plan={plan} />
          <Panels plan={plan} doc={doc} layout={layout} />
          <Lit plan={plan} face={props.litFace ?? null} />
          <Streams streams={streams} u={u} />
          <Radiators plan={plan} doc={doc} layout={layout} />
          {!props.small && (
            <SpaceChips plan={plan} forecast={forecast} roomC={roomC} smoke={props.smoke} onSpace={props.onSpace} />
          )}
          <Mounts
            plan={plan}
            doc={doc}
            layout={layout}
            forecast={forecast}
            chosen={props.chosen ?? null}
            marked={props.marked}
            onChoose={props.onChoose ?? (() => {})}
            grabFocus={props.grabFocus}
            bare={props.small}
          />
          {props.zones && <Zones plan={plan} zones={doc.zones} large={props.small} />}
          <Points plan={plan} points={doc.points} large={props.small} />
          <Pins plan={plan} findings={props.findings ?? []} />
          {(props.pins?.length || props.onPlace) && <SeenPins plan={plan} pins={props.pins ?? []} onPlace={props.onPlace} />}
          {props.measured && <Dimension plan={plan} {...props.measured} />}
          {!props.small && <Ruler plan={plan} />}
        </g>
      </HandsContext>
    </svg>
  );
}

/** The photograph of the opened case, laid so that its two corners meet the drawing's. */
const Backdrop = memo(function Backdrop(props: { plan: Plan; photo: NonNullable<JobDoc["case"]["photo"]>; share: number }) {
  const { photo } = props;
  const at = laid(props.plan, photo);
  if (!at) return null;
  return (
    <image
      href={photo.picture}
      width={photo.width_px}
      height={photo.height_px}
      transform={at.matrix}
      opacity={props.share}
      pointerEvents="none"
      data-photo="laid"
    />
  );
}, sameProps);

/** The face that is being asked about, lit. */
function Lit({ plan, face }: { plan: Plan; face: string | null }) {
  const d: Record<string, string> = {
    front: `M${plan.frontX(plan.height)} 0L${plan.frontX(0)} ${plan.height}`,
    rear: `M${plan.rearX(plan.height)} 0L${plan.rearX(0)} ${plan.height}`,
    top: `M0 0H${plan.depth}`,
    bottom: `M0 ${plan.height}H${plan.depth}`,
    window: `M0 0H${plan.depth}V${plan.height}H0Z`,
    depth: `M0 ${plan.height}H${plan.depth}`,
    height: `M${plan.depth} 0V${plan.height}`,
  };
  const path = face ? d[face] : undefined;
  return path ? (
    <path d={path} fill="none" stroke="var(--color-accent)" strokeWidth={6 * plan.u} opacity="0.75" strokeLinecap="round" />
  ) : null;
}

/** Depth needed at a mount beside the depth that is there, to scale. */
function Dimension({ plan, mount, needed_mm, there_mm }: { plan: Plan; mount: string; needed_mm: number; there_mm: number }) {
  const units = useUnits();
  const own = plan.case.mounts?.find((m) => m.id === mount);
  if (!own || own.face === "window") return null;
  const { u } = plan;
  const { wall, inward } = plan.gate(own);
  const side = { x: inward.y, y: inward.x };
  const bar = (mm: number, shift: number, tone: string) => {
    const from = { x: wall.x + side.x * shift * u, y: wall.y + side.y * shift * u };
    const to = { x: from.x + inward.x * mm, y: from.y + inward.y * mm };
    const tick = (p: { x: number; y: number }) =>
      `M${p.x - side.x * 5 * u} ${p.y - side.y * 5 * u} L${p.x + side.x * 5 * u} ${p.y + side.y * 5 * u}`;
    return (
      <path
        d={`M${from.x} ${from.y} L${to.x} ${to.y} ${tick(from)} ${tick(to)}`}
        className={tone}
        strokeWidth={2.5 * u}
        fill="none"
      />
    );
  };
  const short = needed_mm > there_mm;
  const at = { x: wall.x + inward.x * (there_mm + 10 * u), y: wall.y + inward.y * (there_mm + 16 * u) };
  return (
    <g pointerEvents="none" data-dimension-line={mount}>
      {bar(there_mm, -7, "stroke-base-content")}
      {bar(needed_mm, 7, short ? "stroke-error" : "stroke-accent")}
      <text
        x={at.x}
        y={at.y}
        fontSize={13 * u}
        textAnchor={inward.x > 0 ? "start" : inward.x < 0 ? "end" : "middle"}
        className="fill-base-content font-semibold"
        stroke="var(--paper)"
        strokeWidth={3 * u}
        paintOrder="stroke"
      >
        {units.text("length", needed_mm)} of {units.withUnit("length", there_mm)}
      </text>
    </g>
  );
}

/** What was seen where, as numbered rings; with `onPlace` the inside of the case takes touches. */
function SeenPins({
  plan,
  pins,
  onPlace,
}: {
  plan: Plan;
  pins: { x_mm: number; z_mm: number; n: number; words: string }[];
  onPlace?: (x_mm: number, z_mm: number) => void;
}) {
  const { u } = plan;
  const touched = (e: React.PointerEvent<SVGRectElement>) => {
    const frame = e.currentTarget.getScreenCTM();
    if (!frame || !onPlace) return;
    const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(frame.inverse());
    onPlace(Math.round(plan.depth - at.x), Math.round(plan.height - at.y));
  };
  return (
    <g data-pins={pins.length}>
      {onPlace && (
        <rect width={plan.depth} height={plan.height} fill="transparent" onPointerDown={touched} className="cursor-crosshair">
          <title>A touch pins the next mark here</title>
        </rect>
      )}
      {pins.map((p) => {
        const at = plan.at(p.x_mm, p.z_mm);
        return (
          <g key={`${p.n}${p.x_mm}${p.z_mm}`} transform={`translate(${at.x} ${at.y}) scale(${u})`} pointerEvents="none">
            <title>{p.words}</title>
            <circle
              r={12}
              fill="var(--paper)"
              stroke="var(--color-accent)"
              strokeWidth={3}
              strokeDasharray={p.n ? undefined : "4 3"}
            />
            {p.n > 0 && (
              <text textAnchor="middle" y={4.5} fontSize={13} fontWeight="700" className="fill-base-content">
                {p.n}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** Numbered pins where findings occur; each severity has its own shape. */
const Pins = memo(function Pins({ plan, findings }: { plan: Plan; findings: Finding[] }) {
  const { u } = plan;
  const taken = new Map<string, number>();
  return (
    <g aria-hidden="true" pointerEvents="none">
      {gathered(findings).map(({ key, lead: f }, i) => {
        const mount = plan.case.mounts?.find((m) => m.id === f.mounts.at(-1));
        if (!mount || mount.face === "window") return null;
        const nth = num(taken.get(mount.id));
        taken.set(mount.id, nth + 1);
        const { wall, inward } = plan.gate(mount);
        const along = (sizeOf(mount) / 2) * 0.62 - nth * 26 * u;
        const x = wall.x + inward.x * 30 * u + (inward.y !== 0 ? along : 0);
        const y = wall.y + inward.y * 30 * u + (inward.x !== 0 ? -along : 0);
        return (
          <g key={key} transform={`translate(${x} ${y}) scale(${u})`}>
            <path d={SHAPE[f.severity]} fill={f.severity === "note" ? "var(--color-secondary)" : `var(--color-${f.severity})`} />
            <text textAnchor="middle" y={f.severity === "error" ? 5 : 1} fontSize={11} fontWeight="700" fill="var(--paper)">
              {i + 1}
            </text>
          </g>
        );
      })}
    </g>
  );
}, sameProps);

const MARKS = { metric: { every_mm: 100, each: 100 }, trade: { every_mm: 101.6, each: 4 } }; // round steps in either system

/** A scale from the front, in the reader's units. */
const Ruler = memo(function Ruler({ plan }: { plan: Plan }) {
  const { u } = plan;
  const units = useUnits();
  const { every_mm, each } = MARKS[units.system];
  const y = plan.height + 24 * u + plan.below;
  const marks = Array.from({ length: Math.floor(plan.depth / every_mm) + 1 }, (_, i) => i);
  return (
    <g aria-hidden="true" fill="currentColor" opacity="0.6">
      {marks.map((i) => (
        <g key={i} transform={`translate(${plan.depth - i * every_mm} ${y})`}>
          <line y2={6 * u} stroke="currentColor" />
          <text y={17 * u} fontSize={10.5 * u} textAnchor="middle" className="font-mono">
            {i * each}
          </text>
        </g>
      ))}
      <text x={plan.depth / 2} y={y + 30 * u} fontSize={11 * u} textAnchor="middle">
        seen through the window side · front at the {plan.mirrored ? "left" : "right"} · {units.unit("length")}
      </text>
    </g>
  );
}, sameProps);
