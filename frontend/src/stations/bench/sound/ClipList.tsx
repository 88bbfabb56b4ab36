import type { Clip } from "@/shared/api/sounds";
import { Head } from "@/shared/ui/bits";
import { CLIP_KINDS } from "@/shared/words/words";

/** Clips of a layout and calibrators of the job, with what is known of each. */
export function ClipList(props: { clips: readonly Clip[]; chosen: number | null; onChoose: (id: number) => void }) {
  return (
    <section className="flex flex-col gap-1">
      <Head remark={`${props.clips.length}`}>Clips</Head>
      <ul className="flex flex-col">
        {[...props.clips].reverse().map((c) => (
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
                <span>{CLIP_KINDS.find((k) => k.value === c.kind)?.words.split(",")[0]}</span>
                <span className="font-mono">{levelWords(c)}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Its level with its unit; what is tied to nothing is told so. */
export function levelWords(c: Clip): string {
  if (c.state === "failed") return "not readable";
  if (c.state === "waiting" || c.level === null) return `listening, ${(100 * c.share).toFixed(0)} %`;
  return c.calibrated ? `${c.level.toFixed(1)} dBA` : `${c.level.toFixed(1)} dB, relative`;
}
