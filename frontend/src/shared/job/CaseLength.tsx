import { NumberField } from "../ui/NumberField";
import { useUnits } from "../units/units";
import { CHOICES, figureAt, USUAL } from "../words/words";
import { type Path, readAt, writeAt } from "./fields";
import { useJob } from "./store";

type Dimension = {
  source?: "data_sheet" | "measured" | "guessed";
  tolerance_mm?: number | null;
  sheet_mm?: number | null;
  measured_mm?: number | null;
};

const SOURCES = CHOICES["dimension.source"];

type Props = {
  label: string;
  path: Path;
  name: string;
  low?: number;
  high?: number;
  optional?: string;
  fallback?: number | null;
  onFocus?: () => void;
};

/** A length of the case with where it comes from and how far it may be off; a measured one overrides the sheet, both stay. */
export function CaseLength({ label, path, name, fallback, ...rest }: Props) {
  const { document, edit } = useJob();
  const units = useUnits();
  const own = document.case.dimensions?.[name] as Dimension | undefined;
  const usual = figureAt(path);
  const value = (readAt(document, path) ?? fallback ?? usual.fallback ?? null) as number | null;
  const source = own?.source ?? "data_sheet";
  const write = (d: typeof document, change: Dimension) => {
    const all = { ...(d.case.dimensions ?? {}) } as Record<string, Dimension>;
    all[name] = { ...(all[name] ?? {}), ...change };
    d.case.dimensions = all as typeof d.case.dimensions;
  };
  const commit = (v: number | null) =>
    edit(label.toLowerCase(), (d) => {
      writeAt(d, path, v);
      if (own) write(d, source === "measured" ? { measured_mm: v } : source === "data_sheet" ? { sheet_mm: v } : {});
    });
  const choose = (next: NonNullable<Dimension["source"]>) =>
    edit(`source of ${label.toLowerCase()}`, (d) => {
      const change: Dimension = { source: next };
      if (source === "data_sheet" && value !== null) change.sheet_mm = own?.sheet_mm ?? value;
      if (next === "measured") change.measured_mm = own?.measured_mm ?? value;
      if (next === "data_sheet" && own?.sheet_mm) writeAt(d, path, own.sheet_mm);
      if (next === "measured" && own?.measured_mm) writeAt(d, path, own.measured_mm);
      write(d, change);
    });
  const both = own?.sheet_mm && own.measured_mm && own.sheet_mm !== own.measured_mm;
  return (
    <div className="flex flex-col gap-0.5" data-dimension={name} data-source={source}>
      <NumberField low={usual.low} high={usual.high} {...rest} label={label} kind="length" value={value} onCommit={commit} />
      {value !== null && (
        <span className="flex items-center gap-1 text-fine text-faint">
          <select
            aria-label="Where this figure comes from"
            className="cursor-pointer bg-transparent underline decoration-dotted underline-offset-2"
            value={source}
            onChange={(e) => choose(e.target.value as NonNullable<Dimension["source"]>)}
          >
            {SOURCES.map((s) => (
              <option key={s.value} value={s.value}>
                {s.words}
              </option>
            ))}
          </select>
          {own && (
            <>
              ±
              <input
                aria-label={`How far it may be off, ${units.unit("length")}`}
                className="w-8 border-b border-dotted bg-transparent font-mono"
                defaultValue={Number(units.shown("length", own.tolerance_mm ?? USUAL.tolerance_mm[source]).toFixed(2))}
                key={`${source}-${own.tolerance_mm}-${units.system}`}
                onBlur={(e) => {
                  const typed = units.stored("length", Number(e.target.value.replace(",", ".")));
                  if (Number.isFinite(typed) && typed >= 0 && typed <= 50 && e.target.value !== e.target.defaultValue)
                    edit(`tolerance of ${label.toLowerCase()}`, (d) => write(d, { tolerance_mm: typed }));
                }}
              />
              {units.unit("length")}
            </>
          )}
          {both && (
            <span>
              ; sheet {units.text("length", own.sheet_mm)}, measured {units.text("length", own.measured_mm)}
            </span>
          )}
        </span>
      )}
    </div>
  );
}
