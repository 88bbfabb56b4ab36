import type { Schemas } from "@/shared/api/client";
import { withoutCurve } from "@/shared/job/edits";
import { DocSelect } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Button } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { CHOICES, usual, within } from "@/shared/words/words";

const SOURCES = CHOICES["curve.source"];
const LEAST_POINTS = 2;

/** One speed curve, as it is typed: what it follows, its points, how it slows down. */
export function CurveRow({ curve, at }: { curve: Schemas["CurveDoc"]; at: number }) {
  const { edit } = useJob();
  const points = curve.points as [number, number][];
  const put = (label: string, next: [number, number][]) =>
    edit(label, (d) => {
      const own = d.curves?.[at];
      if (own) own.points = [...next].sort((a, b) => a[0] - b[0]) as typeof own.points;
    });
  const own = (label: string, name: "hysteresis_k" | "ramp_s", value: number | null) =>
    edit(label, (d) => {
      const kept = d.curves?.[at];
      if (!kept) return;
      if (value === null) delete kept[name];
      else kept[name] = value;
    });
  const set = (i: number, which: 0 | 1, value: number | null) => {
    if (value === null || (which === 0 && points.some(([t], j) => j !== i && t === value))) return;
    put(
      `point of ${curve.id}`,
      points.map((p, j) => (j === i ? (which === 0 ? [value, p[1]] : [p[0], value]) : p)),
    );
  };
  const last = points.at(-1) ?? [80, 100];
  return (
    <div className="flex flex-col gap-2 rounded-box border hairline p-3" data-curve={curve.id}>
      <div className="flex flex-wrap items-end gap-3">
        <strong className="text-body">{curve.id}</strong>
        <DocSelect label="It follows" path={["curves", at, "source"]} choices={SOURCES} />
        <NumberField
          label="Slows down only cooler by"
          kind="difference"
          digits={1}
          value={curve.hysteresis_k ?? usual("curves.*.hysteresis_k")}
          {...within("curves.*.hysteresis_k")}
          onCommit={(v) => own(`hysteresis of ${curve.id}`, "hysteresis_k", v)}
        />
        <NumberField
          label="Seconds through its range"
          digits={0}
          value={curve.ramp_s ?? usual("curves.*.ramp_s")}
          {...within("curves.*.ramp_s")}
          onCommit={(v) => own(`ramp of ${curve.id}`, "ramp_s", v)}
        />
        <Button small onClick={() => put(`point of ${curve.id}`, [...points, [last[0] + 5, last[1]]])}>
          add a point
        </Button>
        <Button small onClick={() => edit(`take off curve ${curve.id}`, (d) => withoutCurve(d, curve.id))}>
          take off
        </Button>
      </div>
      <div className="flex flex-wrap gap-4">
        {points.map(([temperature, speed], i) => (
          <div key={`${curve.id} ${temperature}`} className="flex items-end gap-2">
            <NumberField
              label={`Point ${i + 1}, at`}
              kind="temperature"
              digits={0}
              {...within("curves.*.points.*.0")}
              value={temperature}
              onCommit={(v) => set(i, 0, v)}
            />
            <NumberField
              label="runs at"
              kind="share"
              digits={0}
              {...within("curves.*.points.*.1")}
              value={speed}
              onCommit={(v) => set(i, 1, v)}
            />
            {points.length > LEAST_POINTS && (
              <Button
                small
                onClick={() =>
                  put(
                    `point of ${curve.id}`,
                    points.filter((_, j) => j !== i),
                  )
                }
              >
                remove
              </Button>
            )}
          </div>
        ))}
      </div>
    </div>
  );
}
