import { Fragment, useState } from "react";
import type { Run } from "@/shared/api/client";
import { type RunChange, useChangeRun } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select, TextField } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { Term } from "@/shared/ui/Term";
import { minutes } from "@/shared/units/convert";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { channelWords, ENDINGS, ENDS, FLAGS, HELD, METERS, said, TRAITS, within } from "@/shared/words/words";
import { MicrophonePlace, placeOf } from "./sound/MicrophonePlace";
import { MicrophoneSketch } from "./sound/MicrophoneSketch";

export const flagWords = (code: string) => said(FLAGS, code);

/** What was not as the case was delivered when the run was made. */
function AsBuilt({ said }: { said: readonly string[] }) {
  if (!said.length) return null;
  return (
    <p className="text-small" data-as-built={said.length}>
      <strong>Run with:</strong> {said.join("; ")}.
    </p>
  );
}

/** A moment as the field of a date writes it, in the reader's own time. */
function localTime(iso: string | null): string {
  if (!iso) return "";
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** Whether nothing shows how it came to rest: its figures were typed, and nobody said that they stood still. */
const openEnd = (run: Run) => run.analysis.channels.some((c) => c.flags.includes("end_unknown"));

/** How the run came about: protocol, what was held, how it ended, what lowers its generality. */
function HowMade({ run, onChange }: { run: Run; onChange: (change: RunChange) => void }) {
  const held = Object.entries(run.held).filter(([k]) => k !== "loop_filled_at");
  return (
    <section className="flex flex-col gap-1">
      <Head remark={said(ENDINGS, run.ended_why)}>How it was made</Head>
      {run.protocol_name && <p className="text-small">{run.protocol_name}</p>}
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        When it began
        <input
          type="datetime-local"
          className="input input-sm w-52 text-base-content"
          value={localTime(run.made_at)}
          onChange={(e) => onChange({ made_at: e.target.value ? new Date(e.target.value).toISOString() : null })}
        />
        {!run.made_at && (
          <span>
            {run.source_name === "by hand" ? "Not said" : "Its log does not say"}; without it no drift over the evening can be
            seen.
          </span>
        )}
      </label>
      {(openEnd(run) || run.stood_still) && (
        <label className="flex cursor-pointer items-center gap-2 text-small">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={run.stood_still}
            onChange={(e) => onChange({ stood_still: e.target.checked })}
          />
          It stood still when it was read
        </label>
      )}
      <details className="text-small" open={run.traits.length > 0}>
        <summary className="cursor-pointer">What makes it less general ({run.traits.length})</summary>
        {TRAITS.map((t) => (
          <label key={t.value} className="flex cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={run.traits.includes(t.value)}
              onChange={(e) =>
                onChange({ traits: e.target.checked ? [...run.traits, t.value] : run.traits.filter((x) => x !== t.value) })
              }
            />
            <Said text={t.words} />
          </label>
        ))}
      </details>
      <NumberField
        label="The room alone, machine off, dBA"
        {...within("run.background_dba")}
        digits={1}
        optional="Survey's"
        value={run.background_dba}
        onCommit={(v) => onChange({ background_dba: v })}
      />
      <NumberField
        label="and after the run, dBA"
        {...within("run.background_dba")}
        digits={1}
        optional="—"
        value={run.microphone.background_after_dba ?? null}
        onCommit={(v) => onChange({ microphone: { ...run.microphone, background_after_dba: v } })}
      />
      <Select
        label="The level was read with"
        value={run.microphone.meter ?? ""}
        choices={METERS}
        onChange={(meter) => onChange({ microphone: { ...run.microphone, meter: meter as Run["microphone"]["meter"] } })}
      />
      <details className="text-small">
        <summary className="cursor-pointer">
          Microphone{" "}
          {run.microphone.distance_m
            ? `at ${run.microphone.distance_m} m${run.microphone.place ? `, ${run.microphone.place}` : ""}`
            : "where it stood: not said"}
        </summary>
        <div className="flex flex-col gap-2 pt-2">
          <MicrophonePlace
            place={placeOf(run.microphone)}
            onPlace={(place) => onChange({ microphone: { ...run.microphone, ...place } })}
          />
          <MicrophoneSketch place={placeOf(run.microphone)} />
        </div>
      </details>
      {run.waived && <p className="text-small text-warning">Begun without waiting for its gate.</p>}
      <dl className="grid grid-cols-[1fr_auto] gap-x-3 text-small">
        {held.map(([what, value]) => (
          <Fragment key={what}>
            <dt className="text-faint">{said(HELD, what)}</dt>
            <dd>
              <input
                aria-label={`${said(HELD, what)}: as it was`}
                className="input input-xs w-24 font-mono"
                key={value}
                defaultValue={value}
                onBlur={(e) =>
                  e.target.value.trim() &&
                  e.target.value !== value &&
                  onChange({ held: { ...run.held, [what]: e.target.value.trim() } })
                }
              />
            </dd>
          </Fragment>
        ))}
      </dl>
    </section>
  );
}

/** The protocol's criteria against this run. */
function Criteria({ run }: { run: Run }) {
  const found = run.acceptance;
  if (!found) return null;
  return (
    <section className="flex flex-col gap-1" aria-label="Acceptance" data-passed={String(found.passed)}>
      <Head
        remark={
          found.margin_k === null
            ? ""
            : `${found.margin_k >= 0 ? "" : "−"}${Math.abs(found.margin_k).toFixed(1)} K left at the worst`
        }
      >
        {found.passed ? "Accepted" : "Not accepted"}
      </Head>
      {found.why && (
        <p className="text-small" data-acceptance-why>
          {found.why.replace(/[a-z0-9]+(_[a-z0-9]+)+/g, channelWords)}: its figures prove nothing.
        </p>
      )}
      {(found.lines ?? []).map((l) => (
        <p key={l.channel} className="border-b hairline py-0.5 text-small">
          <strong>{l.passed ? "✓" : "✗"} </strong>
          {channelWords(l.channel)}
          {l.critical ? " (critical)" : ""}: <Said text={l.words} />
          {l.channel === found.worst ? ", the worst" : ""}
        </p>
      ))}
    </section>
  );
}

/** Room, window, flags and state of a run; each can be corrected, nothing is thrown away. */
export function RunDetails({ run }: { run: Run }) {
  const { id, document } = useJob();
  const units = useUnits();
  const change = useChangeRun(id);
  const [reason, setReason] = useState(run.void_reason);
  const set = (values: Parameters<typeof change.mutate>[0]["change"]) => change.mutate({ id: run.id, change: values });
  const room = run.analysis.channels.find((c) => c.name === "room_c");
  const window = run.analysis.channels[0]?.window_s as [number, number] | undefined;
  return (
    <>
      <section className="flex flex-col gap-2">
        <Head remark={run.typed_room_c !== null ? "typed" : room ? "logged" : "missing"}>Room</Head>
        {room && (
          <p>
            <span className={`font-mono text-lead ${run.typed_room_c !== null ? "origin-typed" : "origin-measured"}`}>
              {units.withUnit("temperature", room.mean)}
            </span>{" "}
            <span className="text-faint">over the window</span>
          </p>
        )}
        <NumberField
          label={room ? "Correct it, for the whole run" : "Room temperature during the run"}
          kind="temperature"
          {...within("run.room_c")}
          optional={room ? "as logged" : "needed"}
          value={run.typed_room_c}
          onCommit={(v) => set({ room_c: v })}
        />
      </section>
      <AsBuilt said={run.built_with} />
      <HowMade run={run} onChange={set} />
      {run.acceptance && <Criteria run={run} />}
      <section className="flex flex-col gap-1">
        <Head remark={run.analysis.flags.length || openEnd(run) ? "" : "none"}>What lowers trust</Head>
        {openEnd(run) && (
          <div className="border-b hairline py-1.5 text-small leading-snug" data-flag="end_unknown">
            <strong className="text-warning first-letter:uppercase">{ENDS.unknown}</strong>
            <p>Each temperature counts with what {minutes(run.duration_s)} may have left open.</p>
            <p>
              <strong>Do: </strong>
              Say above that it stood still, if it did; log the next run.
            </p>
          </div>
        )}
        {run.analysis.flags.map((f) => (
          <div key={f.code + f.from_s} className="border-b hairline py-1.5 text-small leading-snug" data-flag={f.code}>
            <strong className="text-warning">{said(FLAGS, f.code)}</strong>
            <p>
              {f.detail}{" "}
              <span className="text-faint">
                ({minutes(f.from_s)} to {minutes(f.to_s)})
              </span>
            </p>
            <p>{f.effect}</p>
            <p>
              <strong>Do: </strong>
              {f.do}
            </p>
          </div>
        ))}
        {run.notes.map((n) => (
          <p key={n} className="text-small text-faint">
            {n}
          </p>
        ))}
      </section>
      <section className="flex flex-col gap-2">
        <Head remark={window ? `${minutes(window[1] - window[0])} at the end` : ""}>
          <Term t="window">Averaging window</Term>
        </Head>
        <NumberField
          label="Length in seconds"
          {...within("run.window_s")}
          digits={0}
          optional="auto"
          value={run.window_s}
          onCommit={(v) => set({ window_s: v })}
        />
      </section>
      <section className="flex flex-col gap-2">
        <Head remark={run.state}>The run</Head>
        <p className="text-small text-faint">
          {run.source_name}, {run.rows} rows, {minutes(run.duration_s)}. Columns read:{" "}
          {run.columns
            .filter((c) => c.channel)
            .map((c) => channelWords(c.channel ?? ""))
            .join(", ")}
          .
        </p>
        <a className="self-start text-small underline" href={`/api/runs/${run.id}/export.csv`} download>
          save its readings as CSV
        </a>
        <a className="self-start text-small underline" href={`/api/runs/${run.id}/analysis.json`} download={`${run.name}.json`}>
          save its figures as JSON
        </a>
        <Select
          label="It belongs to layout"
          value={run.layout}
          choices={(document.layouts ?? []).map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }))}
          onChange={(layout) => set({ layout })}
        />
        {run.state === "valid" ? (
          <>
            <TextField label="To leave it out, say why" value={reason} onChange={setReason} wide />
            <div className="flex flex-wrap gap-2">
              <Button small disabled={!reason.trim()} onClick={() => set({ state: "void", void_reason: reason })}>
                Leave it out of comparisons
              </Button>
              <Button small disabled={!reason.trim()} onClick={() => set({ state: "superseded", void_reason: reason })}>
                Another run takes its place
              </Button>
            </div>
          </>
        ) : (
          <>
            <p className="text-small">
              {run.state === "superseded" ? "Replaced" : "Left out"}: {run.void_reason}
            </p>
            <Button small onClick={() => set({ state: "valid" })}>
              Take it in again
            </Button>
          </>
        )}
        {change.error && (
          <p role="alert" className="text-small text-error">
            {change.error.message}
          </p>
        )}
      </section>
    </>
  );
}
