import { type Draft, type Live, useAddReading, useChangeMark } from "@/shared/api/live";
import { Head } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { channelWords, within } from "@/shared/words/words";
import { flagWords } from "../RunDetails";
import { MarkList } from "./Marks";

/** What the helper keeps an eye on: the room, limits and speeds, what was noted, and what comes next. */
export function Side({ live, draft }: { live: Live; draft: Draft }) {
  const units = useUnits();
  const flags = live.figures?.flags ?? [];
  const fans = Object.entries(live.latest).filter(([n]) => n.endsWith("_rpm"));
  const powers = Object.entries(live.latest).filter(([n]) => n.endsWith("_w"));
  const change = useChangeMark();
  const read = useAddReading(draft.id);
  return (
    <>
      <section className="flex flex-col gap-1">
        <Head remark={draft.typed_room_c !== null ? "typed" : live.room_c !== null ? "read" : "missing"}>Room</Head>
        {live.room_c !== null && live.room_c !== undefined ? (
          <p className="text-body">
            <span className="font-mono font-semibold">{units.withUnit("temperature", live.room_c)}</span>
          </p>
        ) : (
          <p className="text-small text-warning">nobody reads it: the run will not be comparable</p>
        )}
        {!live.room_logged && draft.started && (
          <NumberField
            label="Read it now"
            kind="temperature"
            {...within("run.room_c")}
            optional="°"
            value={null}
            onCommit={(v) => v !== null && read.mutate({ channel: "room_c", value: v, sure: true, point: "" })}
          />
        )}
      </section>
      <section className="flex flex-col gap-1" aria-label="Watch">
        <Head remark={draft.alarms.length || flags.length ? "look here" : "all within"}>Watch</Head>
        {draft.alarms.map((a) => (
          <p key={`${a.channel}${a.at_s}`} role="alert" className="rounded-md border-2 border-error p-1.5 text-body">
            <strong className="text-error">{a.kind === "limit" ? "Limit" : "Lost"}: </strong>
            {channelWords(a.channel)}, {a.words}
          </p>
        ))}
        {flags.map((f) => (
          <p key={f.code + f.from_s} className="border-l-4 border-warning pl-2 text-small">
            <strong>{flagWords(f.code)}. </strong>
            {f.detail}. {f.do}
          </p>
        ))}
        {draft.started &&
          live.notes.map((n) => (
            <p key={n} className="border-l-4 border-warning pl-2 text-small">
              {n}
            </p>
          ))}
        <dl className="grid grid-cols-[auto_1fr] gap-x-3 text-small">
          {powers.map(([n, v]) => (
            <Pair key={n} words={channelWords(n)} figure={`${v.toFixed(0)} W`} />
          ))}
          {fans.map(([n, v]) => (
            <Pair key={n} words={channelWords(n)} figure={`${v.toFixed(0)} rpm`} />
          ))}
        </dl>
      </section>
      <section className="flex flex-col gap-1">
        <Head remark={draft.marks.length ? `${draft.marks.length}` : "none yet"}>Notes and marks</Head>
        <MarkList marks={draft.marks} onDrop={(id, drop) => change.mutate({ id, change: { drop } })} />
      </section>
      <section className="flex flex-col gap-1">
        <Head remark={live.bench.silent ? "silent" : ""}>Sources</Head>
        {live.bench.sources.map((s) => (
          <p key={s.source} className="text-small text-faint">
            {s.source}, {s.heard_s_ago < 3 ? "now" : `${s.heard_s_ago.toFixed(0)} s ago`}
          </p>
        ))}
        {live.bench.instruments
          .filter((i) => i.words)
          .map((i) => (
            <p key={i.id} className="text-small text-warning">
              {i.kind} at {i.address}: {i.words}
            </p>
          ))}
      </section>
    </>
  );
}

function Pair({ words, figure }: { words: string; figure: string }) {
  return (
    <>
      <dt className="font-mono font-semibold">{figure}</dt>
      <dd className="text-faint">{words}</dd>
    </>
  );
}
