import { useState } from "react";
import type { Schemas } from "@/shared/api/client";
import { useStandInFaults } from "@/shared/api/hooks";
import { fansAt, layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { within } from "@/shared/words/words";

const WANTS_FAN = ["fan_stops", "tach_lost"];
export const DIFFICULT = "difficult";

type Chosen = { kind: string; faults: Schemas["FaultIn"][] };

/** What goes wrong with a made-up machine: a kind, the fan it concerns, and when. */
export function useFaultChoice(layoutId: string, first: number) {
  const { document } = useJob();
  const [kind, setKind] = useState("");
  const [mount, setMount] = useState("");
  const [at, setAt] = useState(first);
  const layout = layoutOf(document, layoutId);
  const mounts = (document.case.mounts ?? []).map((m) => m.id).filter((m) => layout && fansAt(layout, m).length);
  const of = WANTS_FAN.includes(kind) ? mount || mounts[0] || null : null;
  const chosen: Chosen = { kind, faults: kind && kind !== DIFFICULT ? [{ kind, minutes: at, of }] : [] };
  return { ...chosen, setKind, mounts, of, setMount, at, setAt };
}

export function FaultChoice(props: { choice: ReturnType<typeof useFaultChoice>; when: string; difficult?: boolean }) {
  const { choice } = props;
  const known = useStandInFaults();
  const kinds = (known.data ?? []).map((f) => ({ value: f.kind, words: (f.words.split(";")[0] ?? f.kind).trim() }));
  return (
    <>
      <Select
        label="What goes wrong"
        value={choice.kind}
        empty="nothing"
        choices={props.difficult ? [{ value: DIFFICULT, words: "three things at random" }, ...kinds] : kinds}
        onChange={choice.setKind}
      />
      {WANTS_FAN.includes(choice.kind) && (
        <Select
          label="At mount"
          value={choice.of ?? ""}
          choices={choice.mounts.map((m) => ({ value: m, words: m.toUpperCase() }))}
          onChange={choice.setMount}
        />
      )}
      {choice.faults.length > 0 && (
        <NumberField
          label={props.when}
          {...within("standin.fault_at")}
          digits={0}
          value={choice.at}
          onCommit={(v) => v !== null && choice.setAt(v)}
        />
      )}
    </>
  );
}
