import type { MarkRow } from "@/shared/api/live";
import { num } from "@/shared/words/lists";
import { MARKS, said } from "@/shared/words/words";
import { clock, tagWords } from "./words";

/** What happened, was seen, heard or written down in a run, in its order; a number where it is pinned in the drawing. */
export function MarkList({ marks, onDrop }: { marks: MarkRow[]; onDrop?: (id: number, drop: boolean) => void }) {
  let pin = 0;
  return (
    <ul className="flex flex-col">
      {marks.map((m) => {
        const pinned = m.x_mm !== null && m.z_mm !== null;
        if (pinned) pin += 1;
        return (
          <li key={m.id} className="border-b hairline py-1 text-small" data-mark={m.tag || m.kind}>
            <span className="font-mono text-faint">
              {m.ends_s > m.at_s ? `${clock(m.at_s)} to ${clock(m.ends_s)}` : clock(m.at_s)}
            </span>{" "}
            {pinned && (
              <span className="mr-1 inline-block min-w-5 rounded-full border border-base-content text-center font-mono text-fine">
                {pin}
              </span>
            )}
            <span>
              {[m.tag && tagWords(m.tag), m.text].filter(Boolean).join(": ") || said(MARKS, m.kind)}
              {m.drop ? ", left out of the mean" : ""}
            </span>
            {m.has_picture && (
              <a href={`/api/marks/${m.id}/picture`} target="_blank" rel="noreferrer" className="mt-1 block">
                <img
                  src={`/api/marks/${m.id}/picture`}
                  alt={m.text || tagWords(m.tag)}
                  className="max-h-28 rounded-md border hairline"
                />
              </a>
            )}
            {onDrop && m.kind === "event" && m.tag !== "gate_waived" && (
              <label className="ml-1 inline-flex cursor-pointer items-center gap-1 text-fine text-faint">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={m.drop}
                  onChange={(e) => onDrop(m.id, e.target.checked)}
                />
                leave it out of the mean
              </label>
            )}
          </li>
        );
      })}
    </ul>
  );
}

/** Stretches of the trace that something happened in. */
export const shadesOf = (marks: MarkRow[]) =>
  marks
    .filter((m) => m.kind === "event" || m.kind === "alarm")
    .map((m) => ({
      from_s: m.at_s,
      to_s: m.ends_s,
      words: m.tag ? tagWords(m.tag) : m.text,
      dropped: m.drop,
    }));

/** Numbered pins for the drawing, in the order of the list. */
export const pinsOf = (marks: MarkRow[]) =>
  marks
    .filter((m) => m.x_mm !== null && m.z_mm !== null)
    .map((m, i) => ({ x_mm: num(m.x_mm), z_mm: num(m.z_mm), n: i + 1, words: m.text || tagWords(m.tag) }));
