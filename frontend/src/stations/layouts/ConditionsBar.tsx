import type { Load } from "@/shared/api/client";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";

const LOADS: { value: Load; words: string }[] = [
  { value: "both", words: "both loaded" },
  { value: "cpu", words: "processor loaded" },
  { value: "card", words: "card loaded" },
  { value: "idle", words: "idle" },
  { value: "own", words: "own load" },
];

/** Load and room that the forecast is worked out for. */
export function ConditionsBar() {
  const { conditions: c, setConditions } = useWorkbench();
  const { document, edit } = useJob();
  const units = useUnits();
  const usual = document.room?.temperature_c ?? 22;
  return (
    <div className="flex flex-col gap-2" data-conditions={`${c.load} ${c.room}`}>
      <div className="flex flex-wrap items-center gap-2">
        <Select
          compact
          label="Load"
          value={c.load}
          onChange={(load) => setConditions({ ...c, load: load as Load })}
          choices={LOADS}
        />
        <Select
          compact
          label="Room"
          value={c.room}
          onChange={(room) => setConditions({ ...c, room: room as typeof c.room })}
          choices={[
            { value: "usual", words: `room ${units.withUnit("temperature", usual, 0)}` },
            { value: "worst", words: "the warmest room" },
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
    </div>
  );
}
