import { type Draft, type Live, useAddReading, useSetUp, useStartRun } from "@/shared/api/live";
import { Button, Head, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { CAUTIONS, METERS, TICKED, type Ticked, TRAITS, within } from "@/shared/words/words";
import { MicrophonePlace, placeOf } from "../sound/MicrophonePlace";
import { MicrophoneSketch } from "../sound/MicrophoneSketch";

/** Before the load comes on: what is held, what was read, the room, the gates. */
export function Prepare({ live, draft }: { live: Live; draft: Draft }) {
  const units = useUnits();
  const set = useSetUp();
  const start = useStartRun();
  const read = useAddReading(draft.id);
  const change = (values: Parameters<typeof set.mutate>[0]["change"]) => set.mutate({ run: draft.id, change: values });
  const held = Object.fromEntries(draft.held.flatMap((h) => (h.value === null ? [] : [[h.what, h.value]])));
  const hold = (what: string, value: string | null) => {
    const next: Record<string, string> = { ...held };
    if (value === null) delete next[what];
    else next[what] = value;
    change({ held: next });
  };
  const gate = live.step?.phase === "cool" || live.step?.phase === "purge";
  const noRoom = live.room_c === null || live.room_c === undefined;
  return (
    <div className="grid gap-5 lg:grid-cols-2">
      <section className="flex flex-col gap-2">
        <Head remark={`${draft.held.filter((h) => h.value !== null).length} of ${draft.held.length}`}>Held in every run</Head>
        <ul className="flex flex-col gap-1.5">
          {draft.held.map((h) => (
            <li key={h.what} className="flex items-center gap-2 text-body">
              <label className="flex flex-1 cursor-pointer items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={h.value !== null}
                  onChange={(e) => hold(h.what, e.target.checked ? h.known : null)}
                />
                {h.words}
              </label>
              <input
                aria-label={`${h.words}: value`}
                className="input input-xs w-32 font-mono"
                placeholder={h.known}
                key={h.value ?? ""}
                defaultValue={h.value ?? ""}
                onBlur={(e) => e.target.value !== (h.value ?? "") && hold(h.what, e.target.value || null)}
              />
            </li>
          ))}
        </ul>
        <div>
          <Button
            small
            onClick={() => change({ held: { ...Object.fromEntries(draft.held.map((h) => [h.what, h.known])), ...held } })}
          >
            All are as the layout says
          </Button>
        </div>
        <label className="mt-1 flex cursor-pointer items-center gap-2 text-body">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={draft.loop_new}
            onChange={(e) => change({ loop_new: e.target.checked })}
          />
          The loop or its pump is new, or was just filled
        </label>
        <details className="text-small">
          <summary className="cursor-pointer">What makes this run less general</summary>
          <div className="mt-1 flex flex-col gap-1">
            {TRAITS.map((t) => (
              <label key={t.value} className="flex cursor-pointer items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={draft.traits.includes(t.value)}
                  onChange={(e) =>
                    change({
                      traits: e.target.checked ? [...draft.traits, t.value] : draft.traits.filter((x) => x !== t.value),
                    })
                  }
                />
                {t.words}
              </label>
            ))}
          </div>
        </details>
      </section>
      <section className="flex flex-col gap-3">
        <Head remark={noRoom ? "needed" : draft.typed_room_c !== null ? "typed" : "logged"}>Room</Head>
        {noRoom ? (
          <p className="text-body text-warning">
            No source reads the room. Hang a thermometer away from warm air that leaves the case, or type it.
          </p>
        ) : (
          <p>
            <span className={`font-mono text-figure ${draft.typed_room_c !== null ? "origin-typed" : "origin-measured"}`}>
              {units.withUnit("temperature", live.room_c)}
            </span>
          </p>
        )}
        <div className="flex flex-wrap gap-3">
          {!live.room_logged && (
            <NumberField
              label="Read it now; again at the end"
              kind="temperature"
              {...within("run.room_c")}
              optional="needed"
              value={null}
              onCommit={(v) => v !== null && read.mutate({ channel: "room_c", value: v, sure: true, point: "" })}
            />
          )}
          <NumberField
            label="One value for the whole run"
            kind="temperature"
            {...within("run.room_c")}
            optional={live.room_logged ? "as logged" : "if held"}
            value={draft.typed_room_c}
            onCommit={(v) => change({ room_c: v })}
          />
        </div>
        {(draft.protocol.microphone_m || draft.protocol.background) && (
          <>
            <Head remark="the same in every run">Microphone</Head>
            <div className="flex flex-wrap gap-3">
              <MicrophonePlace
                place={placeOf(draft.microphone)}
                onPlace={(place) => change({ microphone: { ...draft.microphone, ...place } })}
              />
              <Select
                label="Read with"
                value={draft.microphone.meter ?? ""}
                choices={METERS}
                onChange={(meter) =>
                  change({ microphone: { ...draft.microphone, meter: meter as typeof draft.microphone.meter } })
                }
              />
              <label className="flex flex-col gap-0.5 text-fine text-faint">
                In words: stand, angle
                <input
                  className="input input-sm w-52 text-base-content"
                  key={draft.microphone.place}
                  defaultValue={draft.microphone.place ?? ""}
                  onBlur={(e) => change({ microphone: { ...draft.microphone, place: e.target.value } })}
                />
              </label>
              <NumberField
                label="The room alone, dBA"
                {...within("run.background_dba")}
                digits={1}
                optional="machine off"
                value={draft.background_dba}
                onCommit={(v) => change({ background_dba: v })}
              />
              <MicrophoneSketch place={placeOf(draft.microphone)} />
            </div>
          </>
        )}
        {live.notes.map((n) => (
          <p key={n} className="border-l-4 border-warning pl-2 text-body" data-note>
            {n}
          </p>
        ))}
        <Head>Read before power</Head>
        <Caution more={CAUTIONS.runMore}>{CAUTIONS.run}</Caution>
        {draft.cautions.map((c) => (
          <label key={c} className="flex cursor-pointer items-start gap-2 rounded-md border border-warning/50 p-2 text-small">
            <input
              type="checkbox"
              className="checkbox checkbox-sm mt-0.5"
              checked={draft.acknowledged.includes(c)}
              onChange={(e) =>
                change({
                  acknowledged: e.target.checked ? [...draft.acknowledged, c] : draft.acknowledged.filter((x) => x !== c),
                })
              }
            />
            <span>
              <strong>I have read this:</strong> {(TICKED as Ticked)[c]?.words ?? c}
            </span>
          </label>
        ))}
        {gate && (
          <div className="flex items-center gap-3">
            <Button onClick={() => start.mutate({ run: draft.id, waive: true })} disabled={start.isPending}>
              Start without waiting
            </Button>
            <span className="text-small text-faint">the run is marked</span>
          </div>
        )}
        {(set.error ?? start.error) && (
          <p role="alert" className="text-small text-error">
            {(set.error ?? start.error)?.message}
          </p>
        )}
      </section>
    </div>
  );
}
