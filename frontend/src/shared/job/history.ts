import { isDraft, produce } from "immer";
import type { JobDoc } from "../api/client";
import { followWalls } from "./edits";

/** A state one can go back to, and what was done from it. ``join``: changes of one touch of one field are one step. */
export type Step = { label: string; document: JobDoc; join?: string };
export type History = { document: JobDoc; past: Step[]; future: Step[]; changes: number };
export type Action =
  | { kind: "edit"; label: string; change: (draft: JobDoc) => void; join?: string }
  | { kind: "adopt"; label: string; document: JobDoc; instead: JobDoc }
  | { kind: "undo" }
  | { kind: "redo" };

export const MOST_STEPS = 200;

/** What a change, an undo or a redo makes of a history; nothing that it was given is changed. */
export function after(state: History, action: Action): History {
  if (action.kind === "edit") return edited(state, action);
  if (action.kind === "adopt") {
    // One of two states was chosen: the other is one undo away.
    return stepped(state, action.document, { label: action.label, document: action.instead });
  }
  const { past, future, document } = state;
  const [from, to] = action.kind === "undo" ? [past, future] : [future, past];
  const step = from.at(-1);
  if (!step) return state;
  const moved = [...to, { label: step.label, document }];
  const left = from.slice(0, -1);
  const stacks = action.kind === "undo" ? { past: left, future: moved } : { past: moved, future: left };
  return { document: step.document, ...stacks, changes: state.changes + 1 };
}

function edited(state: History, { label, change, join }: Extract<Action, { kind: "edit" }>): History {
  const { document, past, future } = state;
  // What an edit does not touch stays the same object: everything drawn or asked from it can tell at a glance.
  const next = produce(document, (draft) => {
    change(draft);
    if (isDraft(draft.case)) followWalls(draft, document.case); // a case put in whole has its places right
  });
  if (next === document) return state;
  const last = past.at(-1);
  if (join && last?.join === join && last.label === label && !future.length)
    return { document: next, past, future, changes: state.changes + 1 };
  return stepped(state, next, { label, document, join });
}

const stepped = (state: History, document: JobDoc, step: Step): History => ({
  document,
  past: [...state.past, step].slice(-MOST_STEPS),
  future: [],
  changes: state.changes + 1,
});
