import type { JobDoc } from "../api/client";
import { Select } from "../ui/bits";
import { NumberField } from "../ui/NumberField";
import type { Kind } from "../units/units";
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
};

/** A figure of the document, edited in place; the change is one step that can be undone. */
export function DocNumber({ label, path, fallback, ...rest }: NumberProps) {
  const { document, edit } = useJob();
  return (
    <NumberField
      {...rest}
      label={label}
      value={(readAt(document, path) ?? fallback ?? null) as number | null}
      onCommit={(v) => edit(label.toLowerCase(), (d) => writeAt(d, path, v))}
    />
  );
}

type SelectProps = { label: string; path: Path; fallback: string; choices: { value: string; words: string }[] };

/** A choice of the document, edited in place; the choice without a value stands for "none". */
export function DocSelect({ label, path, fallback, choices }: SelectProps) {
  const { document, edit } = useJob();
  return (
    <Select
      label={label}
      value={String(readAt(document, path) ?? fallback)}
      choices={choices}
      onChange={(v) => edit(label.toLowerCase(), (d) => writeAt(d, path, v === "" ? null : v))}
    />
  );
}
