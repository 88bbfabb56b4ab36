import { type ChangeEvent, useState } from "react";
import { addLibraryCase, readCase } from "@/shared/api/hooks";
import { DocNumber, DocSelect, DocTick } from "@/shared/job/fields";
import { Rows } from "@/shared/job/Rows";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { CAUTIONS, CHOICES, MATTERS, usual } from "@/shared/words/words";

/** Where the machine will stand, and who hears it. */
export function RoomSection() {
  const { document } = useJob();
  const room = (name: string) => ["room", name];
  const degrees = { kind: "temperature" as const };
  return (
    <section className="flex flex-col gap-3">
      <Head>13 The room and the ear</Head>
      <div className="flex flex-wrap gap-4">
        <DocNumber label="Usual room temperature" path={room("temperature_c")} {...degrees} />
        <DocNumber label="Warmest it gets" path={room("worst_temperature_c")} optional="not known" {...degrees} />
        <DocSelect label="It is" path={room("kind")} choices={CHOICES["room.kind"]} />
        <DocNumber label="Sound of the room, machine off" path={room("background_dba")} kind="level" />
        <DocNumber label="Sound limit at the ear" path={room("sound_limit_dba")} kind="level" optional="none" />
        <DocNumber label="Ear to case, metres" path={room("listener_distance_m")} />
        <DocSelect label="The listener sits" path={room("listener_side")} choices={CHOICES["room.listener_side"]} />
      </div>
      {document.room?.kind === "chamber" && <Caution>{CAUTIONS.chamber}</Caution>}
    </section>
  );
}

const SCHOOLS = CHOICES["practice.loop_heights"];

/** What matters to the person, once and for all stations; and the positions taken where builders disagree. */
export function PrioritySection() {
  const { document, edit } = useJob();
  const now = (document.priorities ?? {}) as Record<string, number>;
  return (
    <section className="flex flex-col gap-3">
      <Head remark="0 does not matter, 5 matters most; used again in the verdict">14 What matters to you</Head>
      <div className="grid max-w-2xl grid-cols-2 gap-x-6 gap-y-1.5">
        {MATTERS.map(({ value: name, words }) => (
          <label key={name} className="flex items-center gap-3 text-small">
            <span className="w-32">{words}</span>
            <input
              type="range"
              min={0}
              max={5}
              step={1}
              className="range range-xs flex-1"
              aria-label={words}
              value={now[name] ?? usual(`priorities.${name}`)}
              onChange={(e) =>
                edit(`weight of ${words}`, (d) => {
                  d.priorities = { ...(d.priorities ?? {}), [name]: Number(e.target.value) } as typeof d.priorities;
                })
              }
            />
            <span className="w-4 font-mono">{now[name] ?? usual(`priorities.${name}`)}</span>
          </label>
        ))}
      </div>
      <div className="flex flex-wrap items-end gap-4">
        <DocTick label="loaded for hours, not for minutes" path={["practice", "long_duty"]} fallback />
        <DocSelect label="Heights of a loop are judged" path={["practice", "loop_heights"]} choices={SCHOOLS} />
        <DocNumber label="Intake over exhaust, at least" path={["practice", "pressure_low_m3h"]} kind="flow" />
        <DocNumber label="and at most" path={["practice", "pressure_high_m3h"]} kind="flow" optional="no limit" />
      </div>
    </section>
  );
}

/** Heat that may come later: a second card, a higher limit. */
export function GrowthSection() {
  return (
    <section className="flex flex-col gap-3">
      <Head remark="is there enough left for it? Layouts says so under later">15 What may come later</Head>
      <Rows
        path={["scenarios"]}
        one="a later load"
        stem="s"
        fresh={() => ({ name: "a second card", cpu_add_w: 0, card_add_w: 250 })}
        fields={[
          { name: "name", words: "What", as: "text" },
          { name: "cpu_add_w", words: "Processor, more", kind: "power" },
          { name: "card_add_w", words: "Card, more", kind: "power" },
        ]}
      />
    </section>
  );
}

/** The case as a file: out, into this job, or into the library for later jobs. */
export function CaseFileSection() {
  const { id, edit } = useJob();
  const [said, setSaid] = useState<{ bad: boolean; words: string } | null>(null);
  const take = (then: (file: File) => Promise<string>) => async (e: ChangeEvent<HTMLInputElement>) => {
    const file = e.target.files?.[0];
    e.target.value = "";
    if (!file) return;
    try {
      setSaid({ bad: false, words: await then(file) });
    } catch (error) {
      setSaid({ bad: true, words: error instanceof Error ? error.message : String(error) });
    }
  };
  const intoJob = take(async (file) => {
    const read = await readCase(file);
    edit("load a case from a file", (d) => {
      d.case = read.case as typeof d.case;
      const mounts = new Set((d.case.mounts ?? []).map((m) => m.id));
      for (const layout of d.layouts ?? []) {
        layout.fans = (layout.fans ?? []).filter((f) => mounts.has(f.mount));
        if (layout.radiator && !layout.radiator.mounts.every((m) => mounts.has(m))) layout.radiator = null;
        layout.loops = null;
        layout.wiring = [];
        layout.as_found = [];
      }
    });
    return `${read.case.name || "The case"} is in this job now; Undo brings the former one back.`;
  });
  const intoLibrary = take(async (file) => `${(await addLibraryCase(file)).name} is in the library; new jobs can start from it.`);
  return (
    <section className="flex flex-col gap-3">
      <Head>The case as a file</Head>
      <div className="flex flex-wrap items-center gap-3 text-small">
        <a className="btn btn-outline btn-sm" href={`/api/jobs/${id}/case.json`} download>
          Save this case
        </a>
        <FileButton words="Load a case into this job" onFile={intoJob} />
        <FileButton words="Put a case file into the library" onFile={intoLibrary} />
      </div>
      {said && (
        <p role={said.bad ? "alert" : "status"} className={`text-small ${said.bad ? "text-error" : ""}`}>
          {said.words}{" "}
          <Button small onClick={() => setSaid(null)}>
            Understood
          </Button>
        </p>
      )}
    </section>
  );
}

function FileButton({ words, onFile }: { words: string; onFile: (e: ChangeEvent<HTMLInputElement>) => void }) {
  return (
    <label className="btn btn-outline btn-sm focus-within:outline-2">
      {words}
      <input type="file" accept=".json,application/json" className="sr-only" onChange={onFile} />
    </label>
  );
}
