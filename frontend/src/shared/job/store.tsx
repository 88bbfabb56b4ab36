import { useQuery } from "@tanstack/react-query";
import { produce } from "immer";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { ApiError, answered, client, type JobDoc } from "../api/client";

type State = { document: JobDoc; past: Step[]; future: Step[]; changes: number };
type Step = { label: string; document: JobDoc };
type Action = { kind: "edit"; label: string; change: (draft: JobDoc) => void } | { kind: "undo" } | { kind: "redo" };

const MOST_STEPS = 200;
const SAVE_AFTER_MS = 350;
const KEEP_AFTER_MS = 120;

function reduce(state: State, action: Action): State {
  const { document, past, future } = state;
  if (action.kind === "edit") {
    // What an edit does not touch stays the same object: everything drawn or asked from it can tell at a glance.
    const next = produce(document, (draft) => {
      action.change(draft);
    });
    if (next === document) return state;
    return {
      document: next,
      past: [...past, { label: action.label, document }].slice(-MOST_STEPS),
      future: [],
      changes: state.changes + 1,
    };
  }
  const [from, to] = action.kind === "undo" ? [past, future] : [future, past];
  const step = from.at(-1);
  if (!step) return state;
  const moved = [...to, { label: step.label, document }];
  const left = from.slice(0, -1);
  const stacks = action.kind === "undo" ? { past: left, future: moved } : { past: moved, future: left };
  return { document: step.document, ...stacks, changes: state.changes + 1 };
}

export type SaveState = "saved" | "saving" | "offline" | "refused" | "stale";

type Job = {
  id: number;
  document: JobDoc;
  edit: (label: string, change: (draft: JobDoc) => void) => void;
  undo: () => void;
  redo: () => void;
  undoLabel: string | null;
  redoLabel: string | null;
};

type Saving = { save: SaveState; saveError: string | null };

const JobContext = createContext<Job | null>(null);
const SavingContext = createContext<Saving>({ save: "saved", saveError: null });

export function useJob(): Job {
  const job = useContext(JobContext);
  if (!job) throw new Error("useJob outside of JobProvider");
  return job;
}

/** How far saving is; apart from the job, so that the work area is not drawn again for it. */
export const useSaving = () => useContext(SavingContext);

const draftKey = (id: number) => `oventa-draft-${id}`;

/** Loads a job; a draft that could not be saved before a reload is taken up again. */
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
    queryFn: () => answered(client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
    retry: false,
  });
  if (loaded.error) return missing(loaded.error);
  if (!loaded.data) return <p className="p-8">Opening the job …</p>;
  return (
    <Loaded key={id} id={id} revision={loaded.data.revision} document={loaded.data.document as JobDoc}>
      {children}
    </Loaded>
  );
}

function unsavedDraft(id: number, revision: number): JobDoc | null {
  try {
    const draft = JSON.parse(localStorage.getItem(draftKey(id)) ?? "null");
    return draft && draft.revision === revision ? (draft.document as JobDoc) : null;
  } catch {
    return null;
  }
}

function Loaded(props: { id: number; revision: number; document: JobDoc; children: ReactNode }) {
  const [state, dispatch] = useReducer(reduce, null, () => {
    const draft = unsavedDraft(props.id, props.revision);
    return { document: draft ?? props.document, past: [], future: [], changes: draft ? 1 : 0 };
  });
  const saving = useAutosave(props.id, props.revision, state);
  const edit = useCallback((label: string, change: (draft: JobDoc) => void) => dispatch({ kind: "edit", label, change }), []);
  const undo = useCallback(() => dispatch({ kind: "undo" }), []);
  const redo = useCallback(() => dispatch({ kind: "redo" }), []);
  const job = useMemo<Job>(
    () => ({
      id: props.id,
      document: state.document,
      edit,
      undo,
      redo,
      undoLabel: state.past.at(-1)?.label ?? null,
      redoLabel: state.future.at(-1)?.label ?? null,
    }),
    [props.id, state, edit, undo, redo],
  );
  return (
    <JobContext value={job}>
      <SavingContext value={saving}>{props.children}</SavingContext>
    </JobContext>
  );
}

/** Saves every change after a short pause, one at a time; what is not saved yet lies in the browser's storage. */
function useAutosave(id: number, firstRevision: number, state: State): Saving {
  const [save, setSave] = useState<SaveState>("saved");
  const [saveError, setSaveError] = useState<string | null>(null);
  const revision = useRef(firstRevision);
  const savedChanges = useRef(0);
  const busy = useRef(false);
  const latest = useRef(state);
  latest.current = state;

  const push = useCallback(async () => {
    if (busy.current || savedChanges.current === latest.current.changes) return;
    busy.current = true;
    const { document, changes } = latest.current;
    try {
      const done = await answered(
        client.PUT("/api/jobs/{job_id}", {
          params: { path: { job_id: id } },
          body: { revision: revision.current, document: document as never },
        }),
      );
      revision.current = done.revision;
      savedChanges.current = changes;
      setSaveError(null);
      if (latest.current.changes === changes) {
        localStorage.removeItem(draftKey(id));
        setSave("saved");
      }
    } catch (error) {
      const known = error instanceof ApiError ? error : null;
      setSave(known?.status === 409 ? "stale" : known?.status === 0 ? "offline" : "refused");
      setSaveError(error instanceof Error ? error.message : String(error));
      if (known?.status !== 0) savedChanges.current = changes;
    } finally {
      busy.current = false;
      if (savedChanges.current !== latest.current.changes) setTimeout(push, 1500);
    }
  }, [id]);

  useEffect(() => {
    if (state.changes === savedChanges.current) return;
    setSave("saving");
    const keepDraft = () =>
      localStorage.setItem(draftKey(id), JSON.stringify({ revision: revision.current, document: state.document }));
    const keep = setTimeout(keepDraft, KEEP_AFTER_MS);
    addEventListener("pagehide", keepDraft);
    const timer = setTimeout(push, SAVE_AFTER_MS);
    return () => {
      clearTimeout(keep);
      clearTimeout(timer);
      removeEventListener("pagehide", keepDraft);
    };
  }, [id, push, state]);

  return useMemo(() => ({ save, saveError }), [save, saveError]);
}
