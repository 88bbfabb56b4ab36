import { useState } from "react";
import { writeAt } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Button } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";

type Part = { id: string } & Record<string, unknown>;
type Curve = { flow_m3h: number[]; pressure_pa: number[] };

/** A sheet's curve, typed or pasted as pairs of flow and pressure; drawn as soon as it makes sense. */
export function FanCurve({ part, at }: { part: Part; at: number }) {
  const { edit } = useJob();
  const units = useUnits();
  const curve = part.curve as Curve | null | undefined;
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [fault, setFault] = useState<string | null>(null);
  const q = Math.max(...(curve?.flow_m3h ?? [1]), 1);
  const p = Math.max(...(curve?.pressure_pa ?? [1]), 1);
  const begin = () => {
    setText((curve?.flow_m3h ?? []).map((f, i) => `${f}; ${num(curve?.pressure_pa[i])}`).join("\n"));
    setOpen(true);
  };
  const take = () => {
    const read = readPairs(text);
    if (typeof read === "string") return setFault(read);
    setFault(null);
    edit(`curve of ${part.name ?? part.id}`, (d) => writeAt(d, ["parts", "fans", at, "curve"], read));
    setOpen(false);
  };
  return (
    <div className="flex flex-wrap items-center gap-3 text-fine text-faint">
      {curve && (
        <>
          <svg viewBox="0 0 120 48" className="h-12 w-30" role="img" aria-label="Sheet curve, pressure over flow">
            <path d="M2 2V46H118" fill="none" stroke="currentColor" />
            <polyline
              points={curve.flow_m3h.map((f, i) => `${(f / q) * 116 + 2},${46 - (num(curve.pressure_pa[i]) / p) * 42}`).join(" ")}
              fill="none"
              stroke="var(--color-accent)"
              strokeWidth="2"
            />
          </svg>
          sheet curve of {curve.flow_m3h.length} points, {units.withUnit("pressure", p)} to {units.withUnit("flow", q)}; it leads,
          the end figures follow it
        </>
      )}
      {!open && (
        <button type="button" className="cursor-pointer underline" onClick={begin}>
          {curve ? "change its points" : "type or paste the sheet's curve"}
        </button>
      )}
      {curve && !open && (
        <button
          type="button"
          className="cursor-pointer underline"
          onClick={() => edit(`no curve for ${part.name ?? part.id}`, (d) => writeAt(d, ["parts", "fans", at, "curve"], null))}
        >
          take it off
        </button>
      )}
      {open && (
        <div className="flex flex-col gap-1.5">
          <label className="flex flex-col gap-1">
            One point a line at full speed: flow in m³/h, then pressure in Pa
            <textarea
              className="textarea textarea-sm h-28 w-64 font-mono text-base-content"
              value={text}
              onChange={(e) => setText(e.target.value)}
              placeholder={"0; 18\n40; 12\n90; 0"}
            />
          </label>
          {fault && (
            <p role="alert" className="text-error">
              {fault}
            </p>
          )}
          <span className="flex gap-2">
            <Button small strong onClick={take}>
              Use these points
            </Button>
            <Button small onClick={() => setOpen(false)}>
              Leave it
            </Button>
          </span>
        </div>
      )}
    </div>
  );
}

/** Pairs from text with any usual separator and decimal comma; a fault in words where they make no curve. */
function readPairs(text: string): Curve | string {
  const lines = text.split(/\r?\n/).filter((l) => /\d/.test(l));
  const pairs = lines.map((l) => (l.match(/-?\d+(?:[.,]\d+)?/g) ?? []).map((n) => Number(n.replace(",", "."))));
  const odd = pairs.findIndex((x) => x.length !== 2);
  if (odd >= 0) return `Line ${odd + 1} needs two numbers: flow and pressure.`;
  if (pairs.length < 3) return "At least three points are needed.";
  const sorted = [...pairs].sort((a, b) => num(a[0]) - num(b[0]));
  if (sorted.some((x) => num(x[0]) < 0 || num(x[1]) < 0)) return "Flow and pressure are not negative.";
  return { flow_m3h: sorted.map((x) => num(x[0])), pressure_pa: sorted.map((x) => num(x[1])) };
}
