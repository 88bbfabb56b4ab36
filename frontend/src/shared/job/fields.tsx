import { useId } from "react";
import type { JobDoc } from "../api/client";
import { Select } from "../ui/bits";
import { NumberField } from "../ui/NumberField";
import type { Kind } from "../units/units";
import { figureAt } from "../words/words";
import { useJob } from "./store";

/** A place in the job document, such as ["case", "inner_mm", "depth"]. */
export type Path = (string | number)[];

export const readAt = (doc: JobDoc, path: Path): unknown =>
  path.reduce<unknown>((holder, key) => (holder as Record<string | number, unknown> | null | undefined)?.[key], doc);

/** Writes a value at a place; objects that are not there yet are made on the way. */
export function writeAt(doc: JobDoc, path: Path, value: unknown) {
  let holder = doc as Record<string | number, unknown>;
  for (const key of path.slice(0, -1)) {
    holder[key] ??= {};
    holder = holder[key] as Record<string | number, unknown>;
  }
  const last = path.at(-1) ?? "";
  if (value === undefined) delete holder[last];
  else holder[last] = value;
}

type NumberProps = {
  label: string;
  path: Path;
  kind?: Kind;
  low?: number;
  high?: number;
  digits?: number;
  optional?: string;
  fallback?: number | null;
  onFocus?: () => void;
  compact?: boolean;
};

/** A figure of the document, edited in place; the change is one step that can be undone. */
export function DocNumber({ label, path, fallback, ...rest }: NumberProps) {
  const { document, edit } = useJob();
  const usual = figureAt(path);
  return (
    <NumberField
      low={usual.low}
      high={usual.high}
      {...rest}
      label={label}
      value={(readAt(document, path) ?? fallback ?? usual.fallback ?? null) as number | null}
      onCommit={(v) => edit(label.toLowerCase(), (d) => writeAt(d, path, v))}
    />
  );
}

export type Choice = { value: string; words: string };
type SelectProps = { label: string; path: Path; fallback?: string; choices: readonly Choice[]; compact?: boolean };

/** A choice of the document, edited in place; the choice without a value stands for "none". */
export function DocSelect({ label, path, fallback, choices, compact }: SelectProps) {
  const { document, edit } = useJob();
  return (
    <Select
      label={label}
      compact={compact}
      value={String(readAt(document, path) ?? fallback ?? figureAt(path).fallback ?? "")}
      choices={choices}
      onChange={(v) => edit(label.toLowerCase(), (d) => writeAt(d, path, v === "" ? null : v))}
    />
  );
}

/** A line of text of the document. */
export function DocText({ label, path, wide, compact }: { label: string; path: Path; wide?: boolean; compact?: boolean }) {
  const { document, edit } = useJob();
  const id = useId();
  return (
    <div className={`${compact ? "" : "flex flex-col gap-0.5"} ${wide ? "min-w-64 flex-1" : ""}`}>
      <label htmlFor={id} className={compact ? "sr-only" : "text-fine text-faint"}>
        {label}
      </label>
      <input
        id={id}
        className={`input input-sm ${wide ? "w-full" : "w-44"}`}
        value={String(readAt(document, path) ?? "")}
        placeholder={compact ? label : undefined}
        onChange={(e) => edit(label.toLowerCase(), (d) => writeAt(d, path, e.target.value))}
      />
    </div>
  );
}

/** Yes or no. */
export function DocTick({ label, path, fallback = false }: { label: string; path: Path; fallback?: boolean }) {
  const { document, edit } = useJob();
  return (
    <label className="flex h-8 items-center gap-1.5 self-end text-small">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={Boolean(readAt(document, path) ?? fallback)}
        onChange={(e) => edit(label.toLowerCase(), (d) => writeAt(d, path, e.target.checked))}
      />
      {label}
    </label>
  );
}

/** Several of a few things, each with its own tick. */
export function DocTicks({
  label,
  path,
  choices,
}: {
  label: string;
  path: Path;
  choices: readonly { value: unknown; words: string }[];
}) {
  const { document, edit } = useJob();
  const now = (readAt(document, path) ?? []) as unknown[];
  return (
    <fieldset className="flex flex-col gap-0.5">
      <legend className="text-fine text-faint">{label}</legend>
      <div className="flex flex-wrap gap-x-2.5">
        {choices.map((c) => (
          <label key={c.words} className="flex items-center gap-1 py-0.5 text-small">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={now.includes(c.value)}
              onChange={(e) =>
                edit(label.toLowerCase(), (d) => {
                  const kept = choices.filter((o) => (o.value === c.value ? e.target.checked : now.includes(o.value)));
                  writeAt(
                    d,
                    path,
                    kept.map((o) => o.value),
                  );
                })
              }
            />
            {c.words}
          </label>
        ))}
        {!choices.length && <span className="text-small text-faint">none there yet</span>}
      </div>
    </fieldset>
  );
}

/** One figure, choice, text or tick of a thing, told by data; ``name`` may lead inward: "centre_mm.x". */
export type FieldSpec = {
  name: string;
  words: string;
  as?: "number" | "text" | "wide" | "tick" | "mounts" | "ticks";
  kind?: Kind;
  low?: number;
  high?: number;
  digits?: number;
  optional?: string;
  fallback?: number;
  only?: readonly string[];
  choices?: readonly Choice[];
  values?: readonly { value: unknown; words: string }[];
  yes?: boolean;
};

export function DocField({ spec, path }: { spec: FieldSpec; path: Path }) {
  const { document } = useJob();
  const { name, words, choices, as = "number", only: _only, values, yes, ...rest } = spec;
  const at = [...path, ...name.split(".")];
  if (choices)
    return (
      <DocSelect label={words} path={at} fallback={String(figureAt(at).fallback ?? choices[0]?.value ?? "")} choices={choices} />
    );
  if (as === "text" || as === "wide") return <DocText label={words} path={at} wide={as === "wide"} />;
  if (as === "tick") return <DocTick label={words} path={at} fallback={yes} />;
  if (as === "ticks") return <DocTicks label={words} path={at} choices={values ?? []} />;
  if (as === "mounts") {
    const mounts = (document.case.mounts ?? []).map((m) => ({ value: m.id, words: m.id.toUpperCase() }));
    return <DocTicks label={words} path={at} choices={mounts} />;
  }
  return <DocNumber label={words} path={at} {...rest} />;
}
