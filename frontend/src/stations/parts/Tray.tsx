import type { Schemas } from "@/shared/api/client";
import { useUnits } from "@/shared/units/units";
import { CHOICES, saidOfChoice } from "@/shared/words/words";
import type { PartKind } from "./kinds";

type ShelfRow = Schemas["ShelfRow"];
export type Lying = { id: string; name?: string } & Record<string, unknown>;

const VERDICT = { fits: "fits", touches: "touches", does_not_fit: "does not fit", not_known: "not known" } as const;
const TONE = {
  fits: "text-accent",
  touches: "text-warning",
  does_not_fit: "text-error",
  not_known: "text-faint",
} as const;

/** Parts that lie ready, side by side: whether each fits here, by how much, and where it would run. A click takes one. */
export function Tray(props: { kind: PartKind; parts: Lying[]; rows: ShelfRow[]; onTake: (id: string) => void }) {
  const { kind, parts, rows, onTake } = props;
  if (!parts.length) return null;
  return (
    <ul className="flex gap-2 overflow-x-auto pb-2" aria-label={`${kind.words} on the tray`} data-tray={kind.name}>
      {parts.map((p) => (
        <li key={p.id} className="shrink-0">
          <Card part={p} kind={kind} row={rows.find((r) => r.kind === kind.name && r.id === p.id)} onTake={() => onTake(p.id)} />
        </li>
      ))}
    </ul>
  );
}

function Card({ part, kind, row, onTake }: { part: Lying; kind: PartKind; row?: ShelfRow; onTake: () => void }) {
  const units = useUnits();
  const verdict = row?.verdict as keyof typeof VERDICT | undefined;
  const digits = units.system === "metric" ? 0 : 2;
  const margin =
    row?.spare_mm === null || row?.spare_mm === undefined
      ? ""
      : ` ${units.signed("length", row.spare_mm, digits)} ${units.unit("length")}`;
  return (
    <button
      type="button"
      onClick={onTake}
      data-lying={part.id}
      data-verdict={verdict ?? "none"}
      aria-label={`Take ${part.name ?? part.id}${verdict ? `: ${VERDICT[verdict]}${margin}` : ""}`}
      className={`flex h-full w-52 cursor-pointer flex-col gap-0.5 rounded-box border bg-paper p-2 text-left text-small leading-snug hover:border-base-content ${
        verdict === "does_not_fit" ? "border-dashed border-error" : "hairline"
      }`}
    >
      <strong className="[overflow-wrap:anywhere]">{part.name ?? part.id}</strong>
      <span className="text-fine text-faint">{figures(kind, part, units)}</span>
      {row && verdict && (
        <span className={`text-fine ${TONE[verdict]}`}>
          <span className="font-semibold">
            {VERDICT[verdict]}
            {margin}
          </span>
          <span className="block text-faint">{row.words}</span>
        </span>
      )}
      {row?.flow_m3h !== null && row?.flow_m3h !== undefined && row.free_m3h && (
        <span className="mt-auto text-fine">
          at {row.mount?.toUpperCase()}: {units.text("flow", row.flow_m3h)} of {units.withUnit("flow", row.free_m3h)}
          <span className="mt-0.5 block h-1 rounded bg-base-300">
            <span
              className="block h-1 rounded bg-pine"
              style={{ width: `${Math.round((100 * row.flow_m3h) / row.free_m3h)}%`, backgroundColor: "var(--pine)" }}
            />
          </span>
        </span>
      )}
      {row?.rise_k !== null && row?.rise_k !== undefined && (
        <span className="mt-auto text-fine">
          {kind.name === "cards" ? "it" : "the processor"} at {units.withUnit("difference", row.rise_k, 0)} over room
        </span>
      )}
    </button>
  );
}

type Units = ReturnType<typeof useUnits>;

/** The two or three figures by which parts of a kind are told apart. */
function figures(kind: PartKind, p: Lying, units: Units): string {
  const told = (kind.tells ?? []).map(({ field, as }) => {
    const spec = kind.fields.find((f) => f.name === field);
    const value = p[field] ?? spec?.fallback;
    if (value === undefined || value === null || value === "") return "";
    if (typeof value === "string") return saidOfChoice(spec?.choices ?? CHOICES["cooler.kind"], value);
    const quantity = spec?.kind ?? "plain";
    const digits = quantity === "length" && units.system === "trade" ? 2 : quantity === "plain" ? 1 : 0;
    const words =
      quantity === "plain" ? String(value) : units.withUnit(quantity, Number(value), quantity === "level" ? 1 : digits);
    return as.replace("{}", words);
  });
  return told.filter(Boolean).join(", ").replace("×, ", "× ");
}
