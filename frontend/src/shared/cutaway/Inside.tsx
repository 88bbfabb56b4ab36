import { memo } from "react";
import { num } from "@/shared/words/lists";
import { usual } from "@/shared/words/words";
import type { JobDoc, LayoutDoc, LayoutForecast } from "../api/client";
import { setting } from "../job/edits";
import { useUnits } from "../units/units";
import { type Plan, type Pt, seenSpaces, sizeOf } from "./geometry";
import { sameButFans, sameProps } from "./still";
import { Touch } from "./Touch";

const HOT_K = 26;

/** Temperature as one even ramp from sand to plum. */
export const heatColour = (rise: number) =>
  `color-mix(in oklab, var(--heat-hot) ${Math.round(Math.min(Math.max(rise / HOT_K, 0), 1) * 72)}%, var(--heat-cold))`;

type SpacesProps = {
  plan: Plan;
  forecast: LayoutForecast | undefined;
  roomC: number;
  smoke?: Record<string, number>;
  onSpace?: (space: string) => void;
};

/** Smoke as an even ramp from paper to ink. */
const smokeColour = (share: number) =>
  `color-mix(in oklab, var(--color-base-content) ${Math.round(Math.min(Math.max(share, 0), 1) * 62)}%, var(--paper))`;

/** Spaces tinted by forecast air temperature. */
export const Spaces = memo(function Spaces({ plan, forecast, roomC, smoke }: SpacesProps) {
  const wall = plan.case.card_chamber === "separate" && forecast?.air.spaces.find((s) => s.id === "up_mid");
  return (
    <g aria-hidden="true">
      {seenSpaces(forecast).map((s) => {
        const a = plan.at(s.x_to_mm, s.z_to_mm);
        return (
          <rect
            key={s.id}
            x={a.x}
            y={a.y}
            width={s.x_to_mm - s.x_from_mm}
            height={s.z_to_mm - s.z_from_mm}
            fill={smoke ? smokeColour(num(smoke[s.id])) : heatColour(s.temperature_c - roomC)}
          />
        );
      })}
      {wall && <Wall plan={plan} z={wall.z_from_mm} />}
    </g>
  );
}, sameProps);

const BLOCK_WORDS = {
  cage: "cage",
  plate: "plate",
  bundle: "cables",
  block_off: "block-off plate",
  structure: "structure",
  other: "obstacle",
} as const;

/** What stands in the way of air, and open places without a mount. */
export const Ways = memo(function Ways({ plan }: { plan: Plan }) {
  const { u } = plan;
  return (
    <g aria-hidden="true" pointerEvents="none">
      {(plan.case.blocks ?? []).map((b) => {
        const at = plan.at(Math.max(b.from_mm.x, b.to_mm.x), Math.max(b.from_mm.z, b.to_mm.z));
        const w = Math.abs(b.to_mm.x - b.from_mm.x);
        const h = Math.abs(b.to_mm.z - b.from_mm.z);
        return (
          <g key={b.id} data-block={b.id}>
            <rect
              x={at.x}
              y={at.y}
              width={w}
              height={h}
              className="fill-base-content/15 stroke-base-content/60"
              strokeWidth={1.2 * u}
              strokeDasharray={`${4 * u} ${3 * u}`}
            />
            <text
              x={at.x - 4 * u}
              y={at.y + h / 2}
              textAnchor="end"
              fontSize={10.5 * u}
              className="fill-base-content"
              stroke="var(--paper)"
              strokeWidth={3 * u}
              paintOrder="stroke"
            >
              {BLOCK_WORDS[b.kind ?? "other"]}
            </text>
          </g>
        );
      })}
      {(plan.case.vents ?? []).map((v) => {
        const half = (Math.sqrt(v.area_cm2) * 10) / 2;
        const c = plan.at(v.centre_mm.x, v.centre_mm.z);
        const line = {
          front: [plan.frontX(v.centre_mm.z), c.y - half, plan.frontX(v.centre_mm.z), c.y + half],
          rear: [plan.rearX(v.centre_mm.z), c.y - half, plan.rearX(v.centre_mm.z), c.y + half],
          top: [c.x - half, 0, c.x + half, 0],
          bottom: [c.x - half, plan.height, c.x + half, plan.height],
          window: [c.x - half, c.y, c.x + half, c.y],
        }[v.face];
        return (
          <line
            key={v.id}
            data-vent={v.id}
            x1={line[0]}
            y1={line[1]}
            x2={line[2]}
            y2={line[3]}
            stroke="var(--paper)"
            strokeWidth={5 * u}
            strokeDasharray={`${3 * u} ${3 * u}`}
          />
        );
      })}
    </g>
  );
}, sameProps);

/** The wall between the card's chamber and the board's. */
function Wall({ plan, z }: { plan: Plan; z: number }) {
  const y = plan.at(0, z).y;
  return (
    <g>
      <line x1={0} x2={plan.depth} y1={y} y2={y} stroke="currentColor" strokeWidth={2.2 * plan.u} />
      <text x={plan.depth - 46} y={y + 13 * plan.u} textAnchor="end" fontSize={10.5 * plan.u} className="fill-faint">
        the card's chamber{plan.behindTray ? ", behind the tray" : ""}
      </text>
    </g>
  );
}

/** The air temperature of each space on a small chip. */
export const SpaceChips = memo(function SpaceChips({ plan, forecast, roomC, smoke, onSpace }: SpacesProps) {
  const units = useUnits();
  const { u } = plan;
  return (
    <g aria-hidden="true" pointerEvents={onSpace ? "auto" : "none"}>
      {seenSpaces(forecast).map((s) => {
        const rise = s.temperature_c - roomC;
        if (!smoke && s.id.startsWith("basement") && rise < 1) return null;
        const p = plan.at(
          (s.x_from_mm + s.x_to_mm) / 2,
          s.z_from_mm + (s.z_to_mm - s.z_from_mm) * (s.id.startsWith("up") ? 0.18 : 0.3),
        );
        const words = smoke
          ? `${Math.round(100 * num(smoke[s.id]))} %`
          : units.scale === "over"
            ? `${units.signed("difference", rise, 0)} ${units.unit("difference")}`
            : units.withUnit("temperature", s.temperature_c, 0);
        return (
          <g key={s.id} transform={`translate(${p.x} ${p.y})`} data-space={s.id}>
            {onSpace && <Vent plan={plan} space={s} at={p} onClick={() => onSpace(s.id)} />}
            <rect x={-22 * u} y={-9 * u} width={44 * u} height={18 * u} rx={9 * u} fill="var(--paper)" opacity="0.92" />
            <text textAnchor="middle" y={4.2 * u} fontSize={12 * u} className="font-mono" fill="currentColor">
              {words}
            </text>
          </g>
        );
      })}
    </g>
  );
}, sameProps);

/** The whole of a space as something to click; the list beside the drawing does the same by keyboard. */
function Vent(props: { plan: Plan; space: LayoutForecast["air"]["spaces"][number]; at: Pt; onClick: () => void }) {
  const { space: s } = props;
  const corner = props.plan.at(s.x_to_mm, s.z_to_mm);
  return (
    <rect
      x={corner.x - props.at.x}
      y={corner.y - props.at.y}
      width={s.x_to_mm - s.x_from_mm}
      height={s.z_to_mm - s.z_from_mm}
      fill="transparent"
      className="cursor-pointer"
      onClick={props.onClick}
    />
  );
}

/** Board, shroud, supply, card and cooler, to scale where the job knows their size. */
export const Furniture = memo(function Furniture(props: {
  plan: Plan;
  doc: JobDoc;
  layout: LayoutDoc | undefined;
  bare?: boolean;
}) {
  const { plan, doc, layout } = props;
  const board = doc.case.board_depth_mm ?? usual("case.board_depth_mm");
  const top = plan.at(plan.depth, plan.height * 0.985);
  const supply = doc.case.supply;
  const size = supply?.size_mm ?? { x: 150, y: 150, z: Math.min(86, (plan.shroud || 95) * 0.9) };
  const centre = plan.at(supply?.centre_mm?.x ?? plan.depth - size.x / 2 - 8, supply?.centre_mm?.z ?? size.z / 2 + 4);
  const showSupply = supply !== undefined || plan.shroud > 0;
  const { u } = plan;
  return (
    <g>
      <rect
        x={top.x}
        y={top.y}
        width={Math.min(board, plan.depth)}
        height={Math.max(plan.height - plan.shroud - 40, 60)}
        fill="none"
        stroke="currentColor"
        strokeOpacity="0.35"
        strokeDasharray={`${3 * u} ${3 * u}`}
      />
      {plan.shroud > 0 && (
        <line
          x1="0"
          x2={plan.depth}
          y1={plan.height - plan.shroud}
          y2={plan.height - plan.shroud}
          stroke="currentColor"
          strokeWidth={2.6 * u}
          opacity="0.75"
        />
      )}
      {showSupply && (
        <Touch thing="inside" words="Supply, board and memory">
          <rect
            x={centre.x - size.x / 2}
            y={centre.y - size.z / 2}
            width={size.x}
            height={size.z}
            fill="var(--color-base-300)"
            stroke="currentColor"
            strokeOpacity="0.4"
          />
          {!props.bare && (
            <text x={centre.x} y={centre.y + 4 * u} textAnchor="middle" fontSize={12 * u} fill="currentColor" opacity="0.75">
              supply
            </text>
          )}
        </Touch>
      )}
      {layout && (
        <Touch thing="card" words="Card">
          <Card plan={plan} doc={doc} layout={layout} bare={props.bare} />
        </Touch>
      )}
      {layout && (
        <Touch thing="cooler" words="Cooler">
          <Cooler plan={plan} doc={doc} layout={layout} bare={props.bare} />
        </Touch>
      )}
    </g>
  );
}, sameButFans);

type InPlace = { plan: Plan; doc: JobDoc; layout: LayoutDoc; bare?: boolean };

function Card({ plan, doc, layout, bare }: InPlace) {
  const card = doc.parts?.cards?.find((c) => c.id === setting(doc, layout, "card"));
  if (!card) return null;
  const { u } = plan;
  const thick = (card.slots ?? usual("parts.cards.*.slots")) * 18;
  const length = Math.min(card.length_mm, plan.depth);
  const y = plan.height - plan.cardHeight - thick / 2;
  const upright = layout.card_orientation === "upright";
  const tall = upright ? 110 : thick;
  const wet = layout.loops?.some((l) => l.heat?.includes("card"));
  return (
    <g>
      <rect x={0} y={y - (tall - thick) / 2} width={length} height={tall} fill="var(--card-block)" rx={2} />
      {!upright &&
        !wet &&
        [0.22, 0.5, 0.78].map((share) => (
          <rect
            key={share}
            x={length * share - length * 0.12}
            y={y + thick}
            width={length * 0.24}
            height={5 * u}
            fill="var(--card-block)"
            opacity="0.6"
          />
        ))}
      {upright &&
        !wet &&
        [0.22, 0.5, 0.78].map((share) => (
          <circle
            key={share}
            cx={length * share}
            cy={y + thick / 2}
            r={length * 0.12}
            fill="none"
            stroke="var(--card-ink)"
            strokeOpacity="0.5"
          />
        ))}
      {!bare && (
        <text x={length / 2} y={y + thick / 2 + 4 * u} textAnchor="middle" fontSize={12 * u} fill="var(--card-ink)">
          {`card ${layout.card_power_w ?? doc.base?.card_power_w ?? card.power_w} W ${wet ? "on the loop" : (card.shroud ?? "open")}${upright ? ", upright" : ""}`}
        </text>
      )}
    </g>
  );
}

function Cooler({ plan, doc, layout, bare }: InPlace) {
  const cooler = doc.parts?.coolers?.find((c) => c.id === setting(doc, layout, "cooler"));
  if (!cooler) return null;
  const p = plan.cpu;
  const { u } = plan;
  if (cooler.kind === "tower") {
    const up = layout.cooler_direction === "up";
    const turn = up ? -90 : layout.cooler_direction === "front" ? 180 : 0;
    const tall = Math.min(130, (plan.height - plan.cardHeight) * 0.8);
    return (
      <g transform={`translate(${p.x} ${p.y}) rotate(${-turn})`}>
        {Array.from({ length: 9 }, (_, i) => -38 + i * 8).map((x) => (
          <rect key={x} x={x} y={-tall / 2} width={4} height={tall} fill="currentColor" opacity="0.42" />
        ))}
        <rect
          x={38}
          y={-tall / 2 + 4}
          width={25}
          height={tall - 8}
          fill="var(--paper)"
          stroke="currentColor"
          strokeOpacity="0.6"
          opacity="0.85"
        />
        <path d={`M${58} -8L${44} 0L${58} 8`} fill="none" stroke="currentColor" strokeWidth={2 * u} />
      </g>
    );
  }
  if (cooler.kind === "downdraft") {
    return (
      <g transform={`translate(${p.x} ${p.y})`}>
        <rect x={-50} y={-50} width={100} height={100} rx={8} fill="var(--paper)" stroke="currentColor" opacity="0.8" />
        <circle r={42} fill="none" stroke="currentColor" strokeOpacity="0.6" />
        {!bare && (
          <text textAnchor="middle" y={4 * u} fontSize={11 * u} fill="currentColor">
            {layout.cooler_direction === "away" ? "away" : "toward"}
          </text>
        )}
      </g>
    );
  }
  const mounts = (layout.radiator?.mounts ?? layout.loops?.[0]?.radiators?.[0]?.mounts ?? []).flatMap(
    (id) => doc.case.mounts?.filter((m) => m.id === id) ?? [],
  );
  const gates = mounts.map((m) => plan.gate(m));
  const to: Pt | null = gates.length
    ? {
        x: gates.reduce((sum, g) => sum + g.wall.x + g.inward.x * 52, 0) / gates.length,
        y: gates.reduce((sum, g) => sum + g.wall.y + g.inward.y * 52, 0) / gates.length,
      }
    : null;
  return (
    <g>
      {to &&
        [-9, 9].map((off) => (
          <path
            key={off}
            d={`M${p.x + off} ${p.y}C${p.x + off + 30} ${(p.y + to.y) / 2} ${to.x + off} ${(p.y + to.y) / 2} ${to.x + off} ${to.y}`}
            fill="none"
            stroke="currentColor"
            strokeWidth={7}
            opacity="0.35"
          />
        ))}
      <rect x={p.x - 30} y={p.y - 30} width={60} height={60} rx={12} fill="var(--card-block)" />
      {!bare && (
        <text x={p.x} y={p.y + 4 * u} textAnchor="middle" fontSize={11.5 * u} fill="var(--card-ink)">
          {cooler.pump === "block" || !cooler.pump ? "pump" : "block"}
        </text>
      )}
    </g>
  );
}

/** Panels as they stand: dots for mesh, a double line for slots, one line for closed; a gap where one is off. */
export const Panels = memo(function Panels({ plan, doc, layout }: { plan: Plan; doc: JobDoc; layout: LayoutDoc | undefined }) {
  const off = 9 * plan.u;
  const lines = {
    front: [plan.frontX(plan.height) + off, 0, plan.frontX(0) + off, plan.height],
    top: [0, -off, plan.depth, -off],
    bottom: [0, plan.height + off, plan.depth, plan.height + off],
    rear: [plan.rearX(plan.height) - off, 0, plan.rearX(0) - off, plan.height],
  };
  const caught = Object.entries(lines).filter(([face]) => doc.case.panels?.some((p) => p.face === face));
  return (
    <Touch thing="panels" words="Panels">
      {caught.map(([face, [x1, y1, x2, y2]]) => (
        <line key={face} {...{ x1, y1, x2, y2 }} stroke="transparent" strokeWidth={14 * plan.u} pointerEvents="stroke" />
      ))}
      {(doc.case.panels ?? []).map((panel) => {
        if (panel.face === "window") return null;
        const state = layout?.panels?.[panel.face];
        if (state?.state === "removed") return null;
        const kind = state?.kind ?? panel.kind;
        const [x1, y1, x2, y2] = lines[panel.face];
        const dash =
          kind === "mesh" ? `${2.5 * plan.u} ${2.5 * plan.u}` : kind === "slots" ? `${16 * plan.u} ${4 * plan.u}` : undefined;
        const inset = 6 * plan.u;
        const upright = panel.face === "front" || panel.face === "rear";
        const ends = {
          x1: num(x1) + (upright ? 0 : inset),
          y1: num(y1) + (upright ? inset : 0),
          x2: num(x2) - (upright ? 0 : inset),
          y2: num(y2) - (upright ? inset : 0),
        };
        return <line key={panel.face} {...ends} stroke="currentColor" strokeWidth={3 * plan.u} strokeDasharray={dash} />;
      })}
    </Touch>
  );
}, sameButFans);

/** The radiators of a layout, as fin stacks on their mounts. */
export function Radiators({ plan, doc, layout }: { plan: Plan; doc: JobDoc; layout: LayoutDoc | undefined }) {
  const places = layout?.radiator ? [layout.radiator] : (layout?.loops ?? []).flatMap((l) => l.radiators ?? []);
  return (
    <g pointerEvents="none">
      {places.flatMap((place) => {
        const part = doc.parts?.radiators?.find((r) => r.id === place.radiator);
        const thick = part?.thickness_mm ?? usual("parts.radiators.*.thickness_mm");
        return place.mounts.map((id) => {
          const mount = doc.case.mounts?.find((m) => m.id === id);
          if (!mount || mount.face === "window") return null;
          const outer = (layout?.fans ?? []).some((f) => f.mount === id && (f.layer ?? "outer") === "outer") ? 26 : 0;
          const box = plan.onFace(mount, sizeOf(mount), outer, outer + thick);
          return (
            <g key={`${place.radiator} ${id}`}>
              <rect {...{ x: box.x, y: box.y, width: box.w, height: box.h }} fill="var(--color-base-300)" stroke="currentColor" />
              {Array.from({ length: 9 }, (_, i) => (i + 1) / 10).map((share) => (
                <line
                  key={share}
                  x1={box.w > box.h ? box.x + box.w * share : box.x}
                  x2={box.w > box.h ? box.x + box.w * share : box.x + box.w}
                  y1={box.w > box.h ? box.y : box.y + box.h * share}
                  y2={box.w > box.h ? box.y + box.h : box.y + box.h * share}
                  stroke="currentColor"
                  strokeOpacity="0.45"
                />
              ))}
            </g>
          );
        });
      })}
    </g>
  );
}
