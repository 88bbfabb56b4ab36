import { useState } from "react";
import { type MarkRow, type NewMark, useAddMark, useAddReading, useStrikeReading } from "@/shared/api/live";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { layoutOf } from "@/shared/job/edits";
import { pointChannels, pointChoices } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { useKeptText } from "@/shared/ui/kept";
import { useUnits } from "@/shared/units/units";
import { channelWords, EVENTS, HAND_CHANNELS, HEARD, readingKind, SEEN } from "@/shared/words/words";
import { RunSound } from "../sound/RunSound";
import { pinsOf } from "./Marks";
import { clock } from "./words";

type Subject = { id: number; layout: string; marks: MarkRow[]; by_hand: Record<string, unknown>[] };

/** The helper's clipboard: what happened, what is seen, heard, read by hand and photographed, pinned in the drawing. */
export function Clipboard({ run }: { run: Subject }) {
  const { document } = useJob();
  const [place, setPlace] = useState<{ x_mm: number; z_mm: number } | null>(null);
  const layout = layoutOf(document, run.layout);
  return (
    <div className="grid gap-5 xl:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]" data-keys="bench">
      <div className="flex flex-col gap-4">
        <MarkForm run={run.id} place={place} onPlaced={() => setPlace(null)} />
        <ByHand run={run} />
        <RunSound run={run.id} layout={run.layout} />
      </div>
      <div className="flex min-h-72 flex-col gap-1">
        <Head remark={place ? "pinned; add the mark" : "touch a place to pin the next mark"}>Where</Head>
        <div className="h-[420px]">
          <Cutaway
            doc={document}
            layout={layout}
            title={`Layout ${run.layout} with what was seen in it`}
            pins={[...pinsOf(run.marks), ...(place ? [{ ...place, n: 0, words: "the next mark" }] : [])]}
            onPlace={(x_mm, z_mm) => setPlace({ x_mm, z_mm })}
          />
        </div>
      </div>
    </div>
  );
}

function MarkForm({ run, place, onPlaced }: { run: number; place: { x_mm: number; z_mm: number } | null; onPlaced: () => void }) {
  const { document } = useJob();
  const add = useAddMark(run);
  const [text, setText] = useKeptText(`note-${run}`);
  const [drop, setDrop] = useState(true);
  const [picture, setPicture] = useState<File | null>(null);
  const [mount, setMount] = useState("");
  const named = (document.case.mounts ?? []).find((m) => m.id === mount);
  const where = place ?? (named ? { x_mm: named.centre_mm.x, z_mm: named.centre_mm.z } : null);
  const put = (mark: NewMark) =>
    add.mutate(
      { ...mark, text, picture, ...(where && mark.kind !== "event" ? where : {}) },
      {
        onSuccess: () => {
          setText("");
          setPicture(null);
          setMount("");
          onPlaced();
        },
      },
    );
  return (
    <section className="flex flex-col gap-3">
      <Head>Write down</Head>
      <textarea
        aria-label="Note"
        className="textarea textarea-sm w-full text-body"
        rows={2}
        placeholder="In your own words; then one of the buttons"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col gap-0.5 text-fine text-faint">
          Picture, from the camera or a file
          <input
            type="file"
            accept="image/png,image/jpeg"
            capture="environment"
            className="file-input file-input-sm w-64 text-base-content"
            key={picture ? "chosen" : "none"}
            onChange={(e) => setPicture(e.target.files?.[0] ?? null)}
          />
        </label>
        <Select
          label="At"
          value={place ? "" : mount}
          empty={place ? "the pin in the drawing" : "no place"}
          choices={(document.case.mounts ?? []).map((m) => ({ value: m.id, words: m.id.toUpperCase() }))}
          onChange={setMount}
        />
        <Button strong disabled={add.isPending || !(text.trim() || picture)} onClick={() => put({ kind: "note" })}>
          Keep the note
        </Button>
      </div>
      {picture && <p className="text-small">With the picture {picture.name}.</p>}
      <Buttons words="Happened" tags={EVENTS} onTag={(tag) => put({ kind: "event", tag, drop })} />
      <label className="flex cursor-pointer items-center gap-2 text-small">
        <input type="checkbox" className="checkbox checkbox-sm" checked={drop} onChange={(e) => setDrop(e.target.checked)} />
        leave the minute after it out of the mean
      </label>
      <Buttons words="Seen" tags={SEEN} onTag={(tag) => put({ kind: "seen", tag })} />
      <Buttons words="Heard" tags={HEARD} onTag={(tag) => put({ kind: "heard", tag })} />
      {add.error && (
        <p role="alert" className="text-small text-error">
          {add.error.message}
        </p>
      )}
    </section>
  );
}

function Buttons(props: { words: string; tags: readonly { value: string; words: string }[]; onTag: (tag: string) => void }) {
  return (
    <fieldset className="flex flex-wrap items-center gap-2" aria-label={props.words}>
      <span className="w-20 text-body font-semibold">{props.words}</span>
      {props.tags.map((t) => (
        <button
          key={t.value}
          type="button"
          className="min-h-9 cursor-pointer rounded-md border border-base-content bg-paper px-2.5 text-body"
          onClick={() => props.onTag(t.value)}
        >
          {t.words}
        </button>
      ))}
    </fieldset>
  );
}

/** A figure read off a probe, a meter or a screen; what looks like a slip is asked about before it is kept. */
function ByHand({ run }: { run: Subject }) {
  const { document } = useJob();
  const points = pointChannels(document);
  const add = useAddReading(run.id);
  const strike = useStrikeReading(run.id);
  const [channel, setChannel] = useState("sound_dba");
  const [text, setText] = useState("");
  const question = add.data && !add.data.stored ? add.data.question : null;
  const units = useUnits();
  const kind = readingKind(channel);
  const value = units.stored(kind, Number(text.replace(",", ".")));
  const good = text.trim() !== "" && Number.isFinite(value);
  const read = (name: string, figure: number) =>
    `${units.reading(readingKind(name), figure)} ${units.unit(readingKind(name))}`.trimEnd();
  const words = (name: string) => points.get(name) ?? channelWords(name);
  const choices = [...new Set([...pointChoices(document), ...HAND_CHANNELS, "air_probe_1_c", "air_probe_2_c"])];
  const keep = (sure: boolean) =>
    good && add.mutate({ channel, value, sure, point: "" }, { onSuccess: (d) => d.stored && setText("") });
  return (
    <section className="flex flex-col gap-2">
      <Head remark={`${run.by_hand.length}`}>Read by hand</Head>
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="What"
          value={channel}
          choices={choices.map((c) => ({ value: c, words: words(c) }))}
          onChange={(v) => {
            setChannel(v);
            add.reset();
          }}
        />
        <label className="flex flex-col gap-0.5 text-fine text-faint">
          Reading
          <input
            className="input w-28 font-mono text-title text-base-content"
            inputMode="decimal"
            value={text}
            onChange={(e) => {
              setText(e.target.value);
              add.reset();
            }}
            onKeyDown={(e) => e.key === "Enter" && keep(false)}
          />
        </label>
        <span className="pb-2 text-small">{units.unit(kind)}</span>
        <Button strong disabled={!good || add.isPending} onClick={() => keep(false)}>
          Keep the reading
        </Button>
      </div>
      {question && (
        <div role="alert" className="flex flex-wrap items-center gap-3 rounded-md border-2 border-warning p-2 text-body">
          <span>
            <strong>{question.code === "still_climbing" ? "Still climbing. " : "Is that right? "}</strong>
            {units.said(question.words)}
          </span>
          {question.code !== "out_of_range" && (
            <Button small onClick={() => keep(true)}>
              {question.code === "still_climbing" ? "Keep it as on the way" : "It is right, keep it"}
            </Button>
          )}
        </div>
      )}
      {add.error && (
        <p role="alert" className="text-small text-error">
          {add.error.message}
        </p>
      )}
      <ul className="flex flex-col">
        {run.by_hand.map((r, i) => (
          <li key={`${r.channel}${r.at_s}${r.value}`} className="flex items-baseline gap-3 border-b hairline py-0.5 text-small">
            <span className="font-mono text-faint">{clock(Number(r.at_s))}</span>
            <span className={`font-mono ${r.state === "struck" ? "line-through" : "font-semibold"}`}>
              {read(String(r.channel), Number(r.value))}
            </span>
            <span className="flex-1">
              {words(String(r.channel))}
              {r.state === "rising" ? ", still climbing: not counted" : ""}
            </span>
            {r.state !== "struck" && (
              <button type="button" className="cursor-pointer underline" onClick={() => strike.mutate(i)}>
                strike
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
