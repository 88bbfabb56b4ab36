import { useQuery } from "@tanstack/react-query";
import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useReducer,
  useState,
  useSyncExternalStore,
} from "react";
import { flushSync } from "react-dom";
import type { JobDoc } from "../api/client";
import { importJob, storedJob } from "../api/jobs";
import { waitFor } from "../api/unsaved";
import { flushPending } from "../ui/pending";
import { type Draft, draftsLeft, dropLeft, keepDraft, ownTab, type Pending } from "./drafts";
import { type Action, after } from "./history";
import { type Conflict, Saver, type Saving, same } from "./saver";
import { touch, watchTouches } from "./touch";

type Job = {
  id: number;
  document: JobDoc;
  edit: (label: string, change: (draft: JobDoc) => void) => void;
  undo: () => void;
  redo: () => void;
  undoLabel: string | null;
  redoLabel: string | null;
};

type Choices = Saving & {
  keepMine: () => void;
  keepTheirs: () => void;
  /** My state as a job of its own; resolves to its id. */
  keepBoth: () => Promise<number>;
};

const JobContext = createContext<Job | null>(null);
const SavingContext = createContext<Choices | null>(null);

export function useJob(): Job {
  const job = useContext(JobContext);
  if (!job) throw new Error("useJob outside of JobProvider");
  return job;
}

/** How far saving is, and what a person may choose; apart from the job, so that the work area is not drawn again for it. */
export function useSaving(): Choices {
  const saving = useContext(SavingContext);
  if (!saving) throw new Error("useSaving outside of JobProvider");
  return saving;
}

type Opened = {
  revision: number;
  document: JobDoc;
  tab: string;
  mine: Draft | null;
  pending: Pending | null;
  left: Draft | null;
};

/** The stored job with what this browser still holds of it unsaved. */
async function opened(id: number): Promise<Opened> {
  const tab = await ownTab();
  const drafts = await draftsLeft(id, tab);
  const stored = await storedJob(id);
  const document = stored.document as JobDoc;
  const arrived = (d: Draft) => d.pending !== null && d.pending.key === stored.saved_key;
  let mine: Draft | null = null;
  let left: Draft | null = null;
  for (const draft of drafts) {
    if (same(draft.document, document)) dropLeft(id, draft);
    else if (!mine && (draft.revision === stored.revision || arrived(draft))) mine = draft;
    else left ??= draft;
  }
  if (mine && mine.tab !== tab) {
    // What a closed window left is this one's now.
    const taken = { ...mine, tab };
    if (keepDraft(id, taken)) dropLeft(id, mine);
    mine = taken;
  }
  const pending = mine && !arrived(mine) ? mine.pending : null;
  return { revision: stored.revision, document, tab, mine, pending, left };
}

/** Loads a job; what could not be saved before a reload is taken up again, or offered where the job has changed since. */
export function JobProvider({
  id,
  children,
  missing,
}: {
  id: number;
  children: ReactNode;
  missing: (error: Error) => ReactNode;
}) {
  const loaded = useQuery({
    queryKey: ["job", id],
    queryFn: () => opened(id),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    retry: false,
  });
  if (loaded.error) return missing(loaded.error);
  if (!loaded.data) return <p className="p-8">Opening the job …</p>;
  return (
    <Loaded key={id} id={id} opened={loaded.data}>
      {children}
    </Loaded>
  );
}

function Loaded({ id, opened, children }: { id: number; opened: Opened; children: ReactNode }) {
  const { mine, left } = opened;
  const [state, dispatch] = useReducer(after, null, () => ({
    document: mine?.document ?? opened.document,
    past: mine ? [{ label: "changes that were not saved", document: opened.document }] : [],
    future: [],
    changes: mine ? 1 : 0,
  }));
  const [saver] = useState(() => {
    const conflict: Conflict | null = left && {
      mine: left.document,
      theirs: opened.document,
      revision: opened.revision,
      shown: "theirs",
      at: left.at || null,
    };
    return new Saver(id, opened.tab, opened.revision, { document: opened.document, changes: 0 }, opened.pending, conflict);
  });
  const saving = useSyncExternalStore(saver.subscribe, saver.current);
  useEffect(() => saver.edited(state.document, state.changes), [saver, state]);
  useEffect(() => {
    const guard = (event: BeforeUnloadEvent) => {
      flushSync(flushPending); // a figure whose pause had not come yet
      if (saver.wouldLose) event.preventDefault();
    };
    const ready = waitFor(id, saver.stored);
    addEventListener("pagehide", saver.keep);
    addEventListener("beforeunload", guard);
    return () => {
      removeEventListener("pagehide", saver.keep);
      removeEventListener("beforeunload", guard);
      ready();
      saver.leave();
    };
  }, [id, saver]);
  useEffect(() => watchTouches(), []);
  const edit = useCallback(
    (label: string, change: (draft: JobDoc) => void) => dispatch({ kind: "edit", label, change, join: touch() } satisfies Action),
    [],
  );
  const undo = useCallback(() => dispatch({ kind: "undo" }), []);
  const redo = useCallback(() => dispatch({ kind: "redo" }), []);
  const choices = useMemo<Choices>(() => {
    const { conflict } = saving;
    const settle = (keep: "mine" | "theirs") => {
      if (!conflict) return;
      const mine = conflict.shown === "mine" ? state.document : conflict.mine;
      const theirs = conflict.shown === "mine" ? conflict.theirs : state.document;
      const [document, instead] = keep === "mine" ? [mine, theirs] : [theirs, mine];
      dispatch({ kind: "adopt", label: keep === "mine" ? "keep my state" : "keep the newer state", document, instead });
      if (left && conflict.shown === "theirs") dropLeft(id, left);
      if (conflict.shown === "mine") saver.chosen(conflict.revision, keep === "theirs", state.changes + 1);
      else saver.settled();
    };
    return {
      ...saving,
      keepMine: () => settle("mine"),
      keepTheirs: () => settle("theirs"),
      keepBoth: async () => {
        if (!conflict) return id;
        const mine = conflict.shown === "mine" ? state.document : conflict.mine;
        const name = `${mine.name.slice(0, 180)}, my state`;
        const made = await importJob({ ...mine, name });
        settle("theirs");
        return made.id;
      },
    };
  }, [saving, saver, state, id, left]);
  const job = useMemo<Job>(
    () => ({
      id,
      document: state.document,
      edit,
      undo,
      redo,
      undoLabel: state.past.at(-1)?.label ?? null,
      redoLabel: state.future.at(-1)?.label ?? null,
    }),
    [id, state, edit, undo, redo],
  );
  return (
    <JobContext value={job}>
      <SavingContext value={choices}>{children}</SavingContext>
    </JobContext>
  );
}
