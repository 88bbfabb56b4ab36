import { useEffect, useId, useRef, useState } from "react";
import { type Kind, useUnits } from "../units/units";
import { afterPause, forget } from "./pending";

const PAUSE_MS = 450;

type Props = {
  label: string;
  value: number | null | undefined;
  kind?: Kind;
  digits?: number;
  low?: number;
  high?: number;
  optional?: string;
  onCommit: (value: number | null) => void;
  onFocus?: () => void;
  compact?: boolean;
  step?: number;
};

/** A figure with its unit. It is taken when it makes sense; a mistake is said on the spot and nothing is lost. */
export function NumberField(props: Props) {
  const { label, value, kind = "plain", low, high, optional, onCommit, onFocus, compact } = props;
  const units = useUnits();
  const id = useId();
  const digits = props.digits ?? (kind === "plain" ? 3 : kind === "length" && units.system === "metric" ? 1 : 2);
  const shown = value === null || value === undefined ? "" : String(Number(units.shown(kind, value).toFixed(digits)));
  const [text, setText] = useState(shown);
  const [fault, setFault] = useState<string | null>(null);
  const waiting = useRef<(() => void) | null>(null);
  // A kind or a system that changes while a figure waits leaves what was typed as it stands.
  const take = (typed: number | null) => onCommit(typed === null ? null : units.stored(kind, typed));
  const latest = useRef(take);
  latest.current = take;
  useEffect(() => () => waiting.current?.(), []); // a field that goes away loses nothing
  useEffect(() => {
    setText(shown);
    setFault(null);
  }, [shown]);

  // Half a number is no figure: it is taken at a pause, or when the field is left.
  const put = (typed: number | null) => {
    if (waiting.current) forget(waiting.current);
    waiting.current = afterPause(() => latest.current(typed), PAUSE_MS);
  };
  const type = (words: string) => {
    setText(words);
    if (waiting.current) forget(waiting.current);
    waiting.current = null;
    const plain = words.trim().replace(",", ".");
    if (plain === "") {
      if (optional === undefined) return setFault("A figure is needed here.");
      setFault(null);
      return put(null);
    }
    const typed = Number(plain);
    if (!Number.isFinite(typed)) return setFault("Type a number.");
    const stored = units.stored(kind, typed);
    const span = `${low === undefined ? "" : units.text(kind, low)} to ${high === undefined ? "" : units.text(kind, high)} ${units.unit(kind)}`;
    if ((low !== undefined && stored < low - 1e-9) || (high !== undefined && stored > high + 1e-9))
      return setFault(`Between ${span}.`);
    setFault(null);
    if (Number(units.shown(kind, stored).toFixed(digits)) !== Number(shown || Number.NaN)) put(typed);
  };

  return (
    <div className={compact ? "" : "flex flex-col gap-0.5"}>
      <label htmlFor={id} className={compact ? "sr-only" : "text-fine text-faint"}>
        {label}
      </label>
      <div className="flex items-baseline gap-1">
        <input
          id={id}
          inputMode="decimal"
          className={`input input-sm font-mono ${compact ? "w-20" : "w-24"} ${fault ? "input-error" : ""}`}
          value={text}
          placeholder={optional}
          aria-invalid={fault !== null}
          aria-describedby={fault ? `${id}-fault` : undefined}
          onFocus={onFocus}
          onChange={(e) => type(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && waiting.current?.()}
          onBlur={() => {
            const take = waiting.current;
            waiting.current = null;
            if (take) take();
            else if (fault === null) setText(shown);
          }}
        />
        <span className="text-fine text-faint">{units.unit(kind)}</span>
      </div>
      {fault && (
        <p id={`${id}-fault`} role="alert" className="text-fine text-error">
          {fault}
        </p>
      )}
    </div>
  );
}
