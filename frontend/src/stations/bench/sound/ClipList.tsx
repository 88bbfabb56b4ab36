import type { Clip } from "@/shared/api/sounds";
import { Head } from "@/shared/ui/bits";
import { CLIP_KINDS } from "@/shared/words/words";

/** Clips of a layout and calibrators of the job, with what is known of each. */
export function ClipList(props: { clips: readonly Clip[]; chosen: number | null; onChoose: (id: number) => void }) {
  const newest = [...props.clips].reverse();
  const swept = newest.filter((c) => c.swept);
  const row = (c: Clip) => (
    <li key={c.id}>
      <button
        type="button"
        aria-pressed={c.id === props.chosen}
        onClick={() => props.onChoose(c.id)}
        data-clip={c.id}
        data-state={c.state}
        className={`w-full cursor-pointer border-b hairline py-1.5 pl-2 text-left text-small ${
          c.id === props.chosen ? "border-l-4 border-l-base-content bg-paper" : ""
        } ${c.struck ? "line-through opacity-60" : ""}`}
      >
        <span className="block truncate">{c.name}</span>
        <span className="flex justify-between gap-2 text-fine text-faint">
          <span>{c.kind === "calibrator" ? "calibrator" : CLIP_KINDS.find((k) => k.value === c.kind)?.words.split(",")[0]}</span>
          <span className="font-mono whitespace-nowrap">{levelWords(c)}</span>
        </span>
      </button>
    </li>
  );
  return (
    <section className="flex flex-col gap-1">
      <Head remark={`${props.clips.length}`}>Clips</Head>
      <ul className="flex flex-col">{newest.filter((c) => !c.swept).map(row)}</ul>
      {swept.length > 0 && (
        <details>
          <summary className="cursor-pointer text-small">{swept.length} of sweeps</summary>
          <ul className="flex flex-col">{swept.map(row)}</ul>
        </details>
      )}
    </section>
  );
}

/** Its level with its unit; what is tied to nothing is told so. */
export function levelWords(c: Clip): string {
  if (c.state === "failed") return "not readable";
  if (c.state === "waiting" || c.level === null) return `listening, ${(100 * c.share).toFixed(0)} %`;
  return c.calibrated ? `${c.level.toFixed(1)} dBA` : `${c.level.toFixed(1)} dB, relative`;
}
