import type { Load } from "@/shared/api/client";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Segments } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";

const LOADS: { value: Load; words: string }[] = [
  { value: "idle", words: "idle" },
  { value: "cpu", words: "processor" },
  { value: "card", words: "card" },
  { value: "both", words: "both" },
  { value: "own", words: "own" },
];

/** Load and room that the forecast is worked out for. */
export function ConditionsBar() {
  const { conditions: c, setConditions } = useWorkbench();
  const { document, edit } = useJob();
  const units = useUnits();
  const usual = document.room?.temperature_c ?? 22;
  return (
    <div className="flex flex-col gap-2" data-conditions={`${c.load} ${c.room}`}>
      <Segments label="Load" value={c.load} onChange={(load) => setConditions({ ...c, load })} choices={LOADS} />
      {c.load === "own" && (
        <div className="flex gap-3">
          <NumberField
            label="Processor at"
            kind="share"
            value={c.cpuPct}
            low={0}
            high={100}
            onCommit={(v) => setConditions({ ...c, cpuPct: v ?? 0 })}
          />
          <NumberField
            label="Card at"
            kind="share"
            value={c.cardPct}
            low={0}
            high={100}
            onCommit={(v) => setConditions({ ...c, cardPct: v ?? 0 })}
          />
        </div>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <Segments
          label="Room"
          value={c.room}
          onChange={(room) => setConditions({ ...c, room })}
          choices={[
            { value: "usual", words: `room ${units.withUnit("temperature", usual, 0)}` },
            { value: "worst", words: "worst room" },
          ]}
        />
        {c.room === "worst" && (
          <NumberField
            label="Worst room temperature"
            compact
            kind="temperature"
            digits={1}
            value={c.worstC}
            low={-20}
            high={60}
            onCommit={(v) =>
              edit("worst room temperature", (d) => {
                d.room = { ...d.room, worst_temperature_c: v };
              })
            }
          />
        )}
      </div>
    </div>
  );
}
