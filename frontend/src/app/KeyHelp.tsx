import { useState } from "react";
import { letterKeysOn, setLetterKeys } from "@/shared/keys/keys";
import { Button, Head } from "@/shared/ui/bits";
import { Dialog } from "@/shared/ui/Dialog";
import { TERMS } from "@/shared/ui/Term";

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
    <Dialog title="Keys and words" onClose={onClose}>
      <Head>Keys and words</Head>
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
      <details className="mb-3">
        <summary className="cursor-pointer">Words as they are meant here</summary>
        <dl className="mt-2 flex max-h-64 flex-col gap-1.5 overflow-y-auto text-small" data-glossary={Object.keys(TERMS).length}>
          {Object.values(TERMS).map(([word, words]) => (
            <div key={word}>
              <dt className="font-semibold">{word}</dt>
              <dd>{words}</dd>
            </div>
          ))}
        </dl>
      </details>
      <Button onClick={onClose}>Close</Button>
    </Dialog>
  );
}
