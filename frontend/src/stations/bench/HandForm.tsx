import { useState } from "react";
import { useRunByHand } from "@/shared/api/live";
import { latestProtocols } from "@/shared/job/plan";
import { pointChannels, pointChoices } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { channelWords, readingKind, TYPED_CHANNELS, within } from "@/shared/words/words";

const CHANNELS = TYPED_CHANNELS;
type Line = { channel: string; value: number | null };

/** What is asked for next: the first that no line has yet. */
const following = (lines: readonly Line[]) => CHANNELS.find((c) => !lines.some((l) => l.channel === c)) ?? CHANNELS[0];

/** A run without a log: what a program, a meter or a probe said at its end. */
export function HandForm(props: { layoutId: string; onClose: () => void; onDone: (runId: number) => void }) {
  const { id, document } = useJob();
  const store = useRunByHand(id);
  const units = useUnits();
  const points = pointChannels(document);
  const [lines, setLines] = useState<Line[]>([{ channel: CHANNELS[0], value: null }]);
  const [roomC, setRoomC] = useState<number | null>(null);
  const [length, setLength] = useState(30);
  const [still, setStill] = useState(false);
  const own = latestProtocols(document);
  const [protocolId, setProtocolId] = useState(document.plan?.protocol ?? "");
  const readings = lines.filter((l): l is { channel: string; value: number } => l.value !== null);
  /** The figure as it stands in the field, read as one of another kind: what was typed is what is shown. */
  const asTyped = ({ channel, value }: Line, other: string) =>
    value === null ? null : units.stored(readingKind(other), units.shown(readingKind(channel), value));
  // Of the lines as they are by then: a figure that is taken at its pause while another field changes is not lost.
  const change = (at: number, part: (line: Line) => Partial<Line>) =>
    setLines((now) => now.map((l, i) => (i === at ? { ...l, ...part(l) } : l)));
  return (
    <section className="flex flex-col gap-3 rounded-box border border-base-content bg-paper p-4" aria-label="Type results">
      <Head remark={`for layout ${props.layoutId}`}>Results without a log</Head>
      {lines.map((l, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines have no other identity and are only added at the end
        <div key={i} className="flex flex-wrap items-end gap-3">
          <Select
            label="What"
            value={l.channel}
            choices={[...CHANNELS, ...pointChoices(document)].map((c) => ({ value: c, words: points.get(c) ?? channelWords(c) }))}
            onChange={(v) => change(i, (was) => ({ channel: v, value: asTyped(was, v) }))}
          />
          <NumberField
            label="Figure"
            kind={readingKind(l.channel)}
            digits={2}
            optional="—"
            value={l.value}
            onCommit={(v) => change(i, () => ({ value: v }))}
          />
        </div>
      ))}
      <div>
        <Button small onClick={() => setLines((now) => [...now, { channel: following(now), value: null }])}>
          Another figure
        </Button>
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="Room temperature"
          kind="temperature"
          {...within("run.room_c")}
          optional="needed"
          value={roomC}
          onCommit={setRoomC}
        />
        <NumberField
          label="Minutes it ran"
          {...within("run.minutes")}
          digits={0}
          value={length}
          onCommit={(v) => v && setLength(v)}
        />
        {own.length > 0 && (
          <Select
            label="Protocol"
            value={protocolId}
            empty="none"
            choices={own.map((p) => ({ value: p.id, words: p.name || p.id }))}
            onChange={setProtocolId}
          />
        )}
      </div>
      <label className="flex max-w-prose items-start gap-2 text-body">
        <input
          type="checkbox"
          className="checkbox mt-1 checkbox-sm"
          checked={still}
          onChange={(e) => setStill(e.target.checked)}
        />
        <span>
          It stood still when I read it
          <span className="block text-small text-faint">
            The last minutes brought no further degree. Otherwise a temperature counts with what {length} minutes may have left
            open.
          </span>
        </span>
      </label>
      {store.error && (
        <p role="alert" className="text-small text-error">
          {units.said(store.error.message)}
        </p>
      )}
      <div className="flex gap-2">
        <Button
          strong
          disabled={!readings.length || store.isPending}
          onClick={() =>
            store.mutate(
              {
                layout: props.layoutId,
                minutes: length,
                readings,
                room_c: roomC,
                protocol: own.find((p) => p.id === protocolId) ?? null,
                load: "both",
                stood_still: still,
              },
              { onSuccess: (run) => props.onDone(run.id) },
            )
          }
        >
          Keep them as a run of {props.layoutId}
        </Button>
        <Button onClick={props.onClose}>Cancel</Button>
      </div>
    </section>
  );
}
