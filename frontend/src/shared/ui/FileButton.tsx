import type { ChangeEvent } from "react";

/** For a file field: hands on what was chosen, and the same file may be chosen again. */
export const picked = (onFile: (file: File) => void) => (e: ChangeEvent<HTMLInputElement>) => {
  const file = e.target.files?.[0];
  e.target.value = "";
  if (file) onFile(file);
};

/** A button that asks for a file. */
export function FileButton({ words, accept, onFile }: { words: string; accept: string; onFile: (file: File) => void }) {
  return (
    <label className="btn btn-outline btn-sm focus-within:outline-2">
      {words}
      <input type="file" accept={accept} className="sr-only" onChange={picked(onFile)} />
    </label>
  );
}
