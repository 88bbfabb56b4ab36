import type { Load } from "@/shared/api/client";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { FORECAST_LOADS, LESSONS, USUAL, usual as usualOf, within } from "@/shared/words/words";

const LOADS = FORECAST_LOADS;

/** Load and room that the forecast is worked out for, and on what it rests: where runs say nothing of it, that is only said. */
export function ConditionsBar({ taught }: { taught: boolean }) {
  const { conditions: c, setConditions, by, setBy } = useWorkbench();
  const { document, edit } = useJob();
  const units = useUnits();
  const usual = document.room?.temperature_c ?? usualOf("room.temperature_c");
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
        {/* Always there, so that nothing moves once it is known whether there are runs. */}
        {taught ? (
          <Select
            compact
            label="What the forecast rests on"
            value={by ?? "sheets"}
            onChange={(v) => by && setBy(v as typeof by)}
            choices={LESSONS.filter((x) => by || x.value === "sheets")}
          />
        ) : (
          <span className="text-small text-faint" data-rests="sheets">
            by the parts' sheets
          </span>
        )}
        {c.room === "worst" && (
          <NumberField
            label="Worst room temperature"
            compact
            kind="temperature"
            digits={1}
            value={c.worstC}
            {...within("ask.worst_c")}
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
            {...within("ask.load_pct")}
            onCommit={(v) => setConditions({ ...c, cpuPct: v ?? USUAL.own_load_pct.cpu })}
          />
          <NumberField
            label="Card at"
            kind="share"
            value={c.cardPct}
            {...within("ask.load_pct")}
            onCommit={(v) => setConditions({ ...c, cardPct: v ?? USUAL.own_load_pct.card })}
          />
        </div>
      )}
    </div>
  );
}
