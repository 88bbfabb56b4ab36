import { useState } from "react";
import { useSimulateRun } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Button } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { within } from "@/shared/words/words";
import { FaultChoice, useFaultChoice } from "./FaultChoice";

/** A run without a machine: the stand-in bench makes one of this layout, with a mishap if one is wanted. */
export function StandIn({ layoutId, onDone }: { layoutId: string; onDone: (runId: number) => void }) {
  const { id } = useJob();
  const make = useSimulateRun(id);
  const [minutes, setMinutes] = useState(40);
  const [seed, setSeed] = useState(1);
  const choice = useFaultChoice(layoutId, 15);
  return (
    <details className="rounded-box border hairline p-3">
      <summary className="cursor-pointer text-small">No machine at hand? Let the stand-in bench make a run up</summary>
      <div className="mt-3 flex flex-col gap-3">
        <p className="text-small text-faint">
          It runs a machine that is never quite what its sheets say. The same seed gives the same readings. The run is marked as
          made up and counts like any other: leave it out before you judge a real machine.
        </p>
        <div className="flex flex-wrap items-end gap-3">
          <NumberField
            label="Minutes"
            {...within("standin.minutes")}
            digits={0}
            value={minutes}
            onCommit={(v) => v && setMinutes(v)}
          />
          <NumberField
            label="Seed"
            {...within("standin.seed")}
            digits={0}
            value={seed}
            onCommit={(v) => v !== null && setSeed(Math.round(v))}
          />
          <FaultChoice choice={choice} when="After minutes" />
          <Button
            disabled={make.isPending}
            onClick={() =>
              make.mutate({ layout: layoutId, minutes, seed, faults: choice.faults }, { onSuccess: (run) => onDone(run.id) })
            }
          >
            {make.isPending ? "Running it …" : `Make a run of ${layoutId} up`}
          </Button>
        </div>
        {make.error && (
          <p role="alert" className="text-small text-error">
            {make.error.message}
          </p>
        )}
      </div>
    </details>
  );
}
