import { useState } from "react";
import type { LayoutDoc } from "@/shared/api/client";
import { type Clip, type Place, useMakeUpClip } from "@/shared/api/sounds";
import { useJob } from "@/shared/job/store";
import { Button, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { FileButton } from "@/shared/ui/FileButton";
import { NumberField } from "@/shared/ui/NumberField";
import { CAUTIONS, CLIP_KINDS, within } from "@/shared/words/words";
import { MicrophonePlace } from "./MicrophonePlace";
import { MicrophoneSketch } from "./MicrophoneSketch";
import { STORING, useClipKeeper, useOwnPlace, useRecorder } from "./recording";

const shown = () => undefined; // what went wrong stands with the keeper
type Kind = Clip["kind"];

type Props = { layout: LayoutDoc; run: number | null; clips: readonly Clip[]; onMade: (id: number) => void };

/** Where clips come from: the browser's microphone, a file, the made-up recorder. */
export function NewClips({ layout, run, clips, onMade }: Props) {
  const { id } = useJob();
  const keeper = useClipKeeper(layout.id, run, clips);
  const recorder = useRecorder();
  const makeUp = useMakeUpClip(id);
  const ownPlace = useOwnPlace();
  const [kind, setKind] = useState<Kind>("machine");
  const [place, setPlace] = useState<Place>(ownPlace);
  const [reading, setReading] = useState<number | null>(null);
  const ofCalibrator = kind === "calibrator";
  const keep = async (file: File, gainMoves: boolean) => {
    const made = await keeper.keep(file, { kind, place, reading, gainMoves });
    setReading(null);
    onMade(made.id);
  };
  const take = async () => {
    const made = await recorder.take(`${layout.id} ${kind}.wav`);
    if (made) await keep(made.file, made.gainMoves).catch(shown);
  };
  return (
    <section className="grid gap-4 rounded-box border hairline p-3 md:grid-cols-[minmax(0,1fr)_12rem]" aria-label="New clip">
      <div className="flex flex-col gap-3">
        <div className="flex flex-wrap items-end gap-3">
          <Select label="What is heard" value={kind} choices={CLIP_KINDS} onChange={(v) => setKind(v as Kind)} />
          <MicrophonePlace place={place} onPlace={setPlace} />
          <NumberField
            label={ofCalibrator ? "It gives, dB" : "A meter reads, dBA"}
            digits={1}
            value={reading}
            {...within("ask.tie_db")}
            optional="none"
            onCommit={setReading}
          />
        </div>
        <div className="flex flex-wrap items-center gap-3">
          {recorder.going ? (
            <Button onClick={recorder.stop}>Stop</Button>
          ) : (
            <Button strong disabled={keeper.pending} onClick={() => void take()}>
              Record ten seconds
            </Button>
          )}
          <FileButton
            words="Bring in a WAV"
            accept=".wav,.flac,.aif,.aiff,audio/wav"
            onFile={(f) => void keep(f, false).catch(shown)}
          />
          <Button
            disabled={makeUp.isPending}
            onClick={() =>
              makeUp.mutate({ layout: layout.id, kind, run: ofCalibrator ? null : run }, { onSuccess: (c) => onMade(c.id) })
            }
          >
            {makeUp.isPending ? "Recording …" : "Clip of the made-up machine"}
          </Button>
          <span role="status" className="text-small">
            {recorder.words || (keeper.pending && STORING)}
          </span>
        </div>
        {(keeper.error || makeUp.error) && <p role="alert">Nothing stored: {(keeper.error ?? makeUp.error)?.message}</p>}
        <Caution>{CAUTIONS.loud}</Caution>
      </div>
      <MicrophoneSketch place={place} />
    </section>
  );
}
