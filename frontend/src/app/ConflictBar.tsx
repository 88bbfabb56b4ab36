import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { JobDoc } from "@/shared/api/client";
import { useSaving } from "@/shared/job/store";
import { AREAS } from "@/shared/words/words";

/** Where two states differ, in words: parts of the document, and layouts by their letters. */
function differences(mine: JobDoc, theirs: JobDoc): string[] {
  const text = (value: unknown) => JSON.stringify(value ?? null);
  const found: string[] = Object.entries(AREAS)
    .filter(([key]) => text(mine[key as keyof JobDoc]) !== text(theirs[key as keyof JobDoc]))
    .map(([, words]) => words);
  const layouts = new Map<string, string[]>();
  for (const doc of [mine, theirs])
    for (const layout of doc.layouts ?? []) layouts.set(layout.id, [...(layouts.get(layout.id) ?? []), text(layout)]);
  const letters = [...layouts].filter(([, texts]) => texts.length < 2 || texts[0] !== texts[1]).map(([id]) => id);
  if (letters.length) found.push(`${letters.length === 1 ? "layout" : "layouts"} ${letters.slice(0, 8).join(", ")}`);
  return found.length ? found : ["details"];
}

/** Two states of this job: a person says which is kept. Nothing is thrown away before. */
export function ConflictBar() {
  const { conflict, keepMine, keepTheirs, keepBoth } = useSaving();
  const [copy, setCopy] = useState<number | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  if (!conflict)
    return copy === null ? null : (
      <p role="status" className="no-print flex items-center gap-4 border-b border-base-content bg-paper px-4 py-2 text-small">
        Your state is a job of its own now; runs stay with this one.
        <Link to="/jobs/$jobId/layouts" params={{ jobId: String(copy) }} className="underline underline-offset-2">
          Open it
        </Link>
        <button type="button" className="ml-auto cursor-pointer underline underline-offset-2" onClick={() => setCopy(null)}>
          close
        </button>
      </p>
    );
  const when = conflict.at ? ` on ${new Date(conflict.at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}` : "";
  const [head, mine, theirs] =
    conflict.shown === "mine"
      ? [
          "This job was changed in another window while you worked here.",
          "Your state is on this screen and not saved yet.",
          "the other window's state",
        ]
      : [
          `Changes made here${when} were not saved, and the job was changed since.`,
          "The stored state is on this screen.",
          "the stored state",
        ];
  const both = async () => {
    setFault(null);
    try {
      setCopy(await keepBoth());
    } catch (error) {
      setFault(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section
      role="alert"
      aria-label="Two states of this job"
      className="no-print flex flex-wrap items-center gap-x-5 gap-y-2 border-b border-base-content bg-paper px-4 py-2.5"
    >
      <p className="min-w-72 flex-1 text-small leading-snug">
        <strong className="font-semibold">{head}</strong> {mine} The two differ in{" "}
        {differences(conflict.mine, conflict.theirs).join(", ")}.
        <span className="block text-fine text-faint">
          Nothing is lost yet. What you do not keep stays one undo away until this page is closed.
        </span>
        {fault && <span className="block text-fine text-error">{fault}</span>}
      </p>
      <span className="flex flex-wrap gap-2">
        <button type="button" className="btn btn-sm btn-primary" onClick={keepMine}>
          Keep mine
        </button>
        <button type="button" className="btn btn-sm" onClick={keepTheirs}>
          Keep {theirs}
        </button>
        <button type="button" className="btn btn-sm" onClick={both}>
          Keep both: mine as a copy
        </button>
      </span>
    </section>
  );
}
