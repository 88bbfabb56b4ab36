import { useState } from "react";
import { type Clip, useClips } from "@/shared/api/sounds";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { CAUTIONS, CLIP_KINDS, saidOfChoice, within } from "@/shared/words/words";
import { levelWords } from "./ClipList";
import { STORING, useClipKeeper, useOwnPlace, useRecorder } from "./recording";

const SHOWN = ["machine", "room"] as const;

/** The sound of a run, recorded by the tablet that is at hand: the machine, and the room alone once it is off. */
export function RunSound({ run, layout }: { run: number; layout: string }) {
  const { id } = useJob();
  const clips = useClips(id).data ?? [];
  const own = clips.filter((c) => c.run === run);
  const place = useOwnPlace();
  const recorder = useRecorder();
  const keeper = useClipKeeper(layout, run, clips);
  const [reading, setReading] = useState<number | null>(null);
  const take = async (kind: (typeof SHOWN)[number]) => {
    const made = await recorder.take(`${layout} ${kind}.wav`);
    if (!made) return;
    await keeper.keep(made.file, { kind, place, reading, gainMoves: made.gainMoves }).then(() => setReading(null), shown);
  };
  return (
    <section className="flex flex-col gap-2" data-run-sound={own.length}>
      <Head remark="ten seconds each, hands off">Record the sound</Head>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="A meter reads, dBA"
          digits={1}
          value={reading}
          {...within("ask.tie_db")}
          optional="none"
          onCommit={setReading}
        />
        {recorder.going ? (
          <Button onClick={recorder.stop}>Stop</Button>
        ) : (
          SHOWN.map((kind) => (
            <Button key={kind} disabled={keeper.pending} onClick={() => void take(kind)}>
              Record {saidOfChoice(CLIP_KINDS, kind)}
            </Button>
          ))
        )}
        <span role="status" className="text-small">
          {recorder.words || (keeper.pending && STORING)}
        </span>
      </div>
      {keeper.error && <p role="alert">Nothing stored: {keeper.error.message}</p>}
      <Caution>{CAUTIONS.loud}</Caution>
      <RunClips run={run} />
    </section>
  );
}

const shown = () => undefined; // what went wrong stands with the keeper

/** Recordings of a run with what each told; nothing where none was made. */
export function RunClips({ run }: { run: number }) {
  const { id } = useJob();
  const own = (useClips(id).data ?? []).filter((c) => c.run === run && c.kind !== "calibrator");
  if (!own.length) return null;
  return (
    <ul className="flex flex-col" aria-label="Recordings of the run">
      {own.map((c) => (
        <ClipRow key={c.id} clip={c} />
      ))}
    </ul>
  );
}

function ClipRow({ clip }: { clip: Clip }) {
  const told = clip.told.length ? clip.told.join("; ") : clip.kind === "machine" ? "nothing stands out of it" : "";
  const heard = clip.state === "done" ? [levelWords(clip), told].filter(Boolean).join("; ") : levelWords(clip);
  return (
    <li className={`border-b hairline py-0.5 text-small ${clip.struck ? "line-through opacity-60" : ""}`} data-run-clip={clip.id}>
      Recorded, {saidOfChoice(CLIP_KINDS, clip.kind)}: {heard}
    </li>
  );
}
