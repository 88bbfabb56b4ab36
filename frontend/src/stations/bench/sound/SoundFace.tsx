import { useState } from "react";
import { useClips } from "@/shared/api/sounds";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Segments } from "@/shared/ui/bits";
import { ClipList } from "./ClipList";
import { ClipView } from "./ClipView";
import { Listen } from "./Listen";
import { NewClips } from "./NewClips";
import { Speeds } from "./Speeds";

type Part = "clips" | "sweep" | "equal" | "listen";
const PARTS: { value: Part; words: string }[] = [
  { value: "clips", words: "clips" },
  { value: "sweep", words: "sweep of speeds" },
  { value: "equal", words: "speed for a level" },
  { value: "listen", words: "listen" },
];

/** Sound of a layout: clips and what they hold, levels at speeds, the way to a level, two layouts by ear. A clip that is taken during a live run is that run's. */
export function SoundFace({ run }: { run: number | null }) {
  const { id, document } = useJob();
  const { layoutId } = useWorkbench();
  const [part, setPart] = useState<Part>("clips");
  const [chosen, setChosen] = useState<number | null>(null);
  const layout = layoutOf(document, layoutId);
  const clips = useClips(id);
  const all = clips.data ?? [];
  const own = all.filter((c) => c.layout === layoutId || c.kind === "calibrator");
  const clip =
    own.find((c) => c.id === chosen) ?? own.filter((c) => c.kind === "machine" && !c.struck && !c.swept).at(-1) ?? own.at(-1);
  if (!layout) return <p className="p-4">Draw a layout first: sound is heard of one.</p>;
  return (
    <div className="overflow-y-auto p-4 max-lg:overflow-visible" data-sound={part}>
      <div className="mx-auto flex max-w-[64rem] flex-col gap-4">
        <Segments label="Part of sound" value={part} choices={PARTS} onChange={setPart} />
        {clips.error && <p role="alert">No answer: {clips.error.message}</p>}
        {part === "clips" && (
          <>
            <NewClips layout={layout} run={run} clips={all} onMade={setChosen} />
            <div className="grid gap-4 lg:grid-cols-[15rem_minmax(0,1fr)]">
              <ClipList clips={own} chosen={clip?.id ?? null} onChoose={setChosen} />
              {clip ? (
                <ClipView key={clip.id} clip={clip} clips={all} />
              ) : (
                <p className="text-small text-faint">
                  No clip of {layoutId} yet. Ten seconds with the machine at its usual load tell its level, tones and beats.
                </p>
              )}
            </div>
          </>
        )}
        {(part === "sweep" || part === "equal") && <Speeds key={`${part} ${layoutId}`} purpose={part} layout={layout} />}
        {part === "listen" && <Listen clips={all} />}
      </div>
    </div>
  );
}
