import { useState } from "react";
import { letterKeysOn, setLetterKeys } from "@/shared/keys/keys";
import { Button, Head } from "@/shared/ui/bits";

const KEYS: [string, string][] = [
  ["1 … 6", "to a station"],
  ["[ and ]", "the layout before, the next layout"],
  ["← ↑ → ↓", "walk the mounts (with the drawing in focus)"],
  ["P", "put a fan on the chosen mount"],
  ["F", "flip the fan"],
  ["+ and −", "faster, slower by 5 %"],
  ["Del", "take the fan out"],
  ["M", "move the fan: then walk and press Enter"],
  ["N, D", "new layout, duplicate the layout"],
  ["Space, N, G", "live bench: the large action, note, gauge"],
  ["A, C, E, F, P", "verdict: argument, compare, effects, figures, probes"],
  ["Z, ⇧Z", "undo, redo"],
  ["?", "this list"],
];

/** The keys, and the switch for single letters. */
export function KeyHelp({ onClose }: { onClose: () => void }) {
  const [letters, setLetters] = useState(letterKeysOn);
  return (
    <div
      role="dialog"
      aria-label="Keys"
      className="fixed right-4 bottom-12 z-40 w-96 rounded-box border border-base-content bg-paper p-4 shadow-lg"
    >
      <Head>Keys</Head>
      <dl className="my-3 grid grid-cols-[7rem_1fr] gap-y-1.5">
        {KEYS.map(([key, words]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="key">{key}</kbd>
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
      <label className="mb-3 flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={letters}
          onChange={(e) => {
            setLetterKeys(e.target.checked);
            setLetters(e.target.checked);
          }}
        />
        Letter keys act (only while the drawing, the rack, the live bench or the verdict has the focus)
      </label>
      <Button onClick={onClose}>Close</Button>
    </div>
  );
}
