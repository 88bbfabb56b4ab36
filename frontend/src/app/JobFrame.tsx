import { Link, Outlet, useNavigate, useParams, useRouterState } from "@tanstack/react-router";
import { useState, useSyncExternalStore } from "react";
import { useLoading } from "@/shared/api/hooks";
import { JobProvider, useJob, useSaving } from "@/shared/job/store";
import { WorkbenchProvider } from "@/shared/job/workbench";
import { useKeys, useLettersActive, usePlaceKeys } from "@/shared/keys/keys";
import { Empty } from "@/shared/ui/bits";
import { anyPending, watchPending } from "@/shared/ui/pending";
import { ConflictBar } from "./ConflictBar";
import { KeyHelp } from "./KeyHelp";
import { Rack } from "./Rack";
import { STATIONS, Strip } from "./Strip";

/** Everything of one job: strip above, rack at the side, the station, keys below. */
export function JobFrame() {
  const { jobId } = useParams({ strict: false });
  return (
    <JobProvider
      id={Number(jobId)}
      missing={(error) => (
        <div className="p-10">
          <Empty title="This job cannot be opened">
            <p>{error.message}</p>
            <Link to="/" className="btn btn-sm btn-primary">
              To the list of jobs
            </Link>
          </Empty>
        </div>
      )}
    >
      <WorkbenchProvider>
        <Frame />
      </WorkbenchProvider>
    </JobProvider>
  );
}

function Frame() {
  const job = useJob();
  const go = useNavigate();
  const path = useRouterState({ select: (s) => s.location.pathname });
  const station = STATIONS.find((s) => path.endsWith(`/${s.path}`));
  const [help, setHelp] = useState(false);
  useKeys([
    ...STATIONS.map((s, i) => ({
      key: String(i + 1),
      words: `to ${s.name}`,
      run: () => {
        go({ to: `/jobs/$jobId/${s.path}`, params: { jobId: String(job.id) }, search: true });
      },
    })),
    { key: "?", words: "all keys", run: () => setHelp((h) => !h) },
    { key: "Escape", words: "close", run: () => setHelp(false) },
    { key: "z", words: "undo", letter: true, everywhere: true, run: job.undo },
    { key: "Z", words: "redo", letter: true, everywhere: true, run: job.redo },
  ]);
  const withRack = station?.rack ?? false;
  return (
    <div className="flex h-full min-h-[600px] flex-col">
      <a href="#work" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2">
        To the work area
      </a>
      <Strip />
      <ConflictBar />
      <div className="flex min-h-0 flex-1 max-sm:flex-col">
        {withRack && <Rack />}
        <main id="work" className="min-w-0 flex-1 overflow-auto">
          <Outlet />
        </main>
      </div>
      <Footer onHelp={() => setHelp(true)} keys={PLACE_KEYS[station?.path ?? ""] ?? []} />
      {help && <KeyHelp onClose={() => setHelp(false)} />}
    </div>
  );
}

const SAVE_WORDS = {
  saved: "all saved",
  saving: "saving …",
  offline: "not saved yet: the server does not answer; kept in this browser",
  refused: "not saved",
  conflict: "not saved: choose above which state to keep",
} as const;

/** Keys of a drawing; other places tell theirs themselves. */
const PLACE_KEYS: Record<string, readonly (readonly [string, string])[]> = {
  layouts: [
    ["←↑→↓", "mounts"],
    ["F", "flip"],
    ["P", "put"],
    ["+ −", "speed"],
    ["M", "move"],
    ["Del", "take out"],
  ],
};

function Footer({ onHelp, keys: ofStation }: { onHelp: () => void; keys: readonly (readonly [string, string])[] }) {
  const job = useJob();
  const loading = useLoading();
  const { save: ofSaver, saveError, kept } = useSaving();
  const typing = useSyncExternalStore(watchPending, anyPending);
  const save = ofSaver === "saved" && typing ? "saving" : ofSaver;
  const ofPlace = usePlaceKeys();
  const letters = useLettersActive(); // in a field for text Z is a letter, and the line does not offer it as a key
  const keys = ofPlace.length ? ofPlace : ofStation;
  return (
    <footer className="no-print flex items-center gap-4 bg-neutral px-4 py-1.5 text-small text-neutral-content max-sm:gap-3 max-sm:px-3">
      {keys.map(([key, words]) => (
        <span key={key} className="max-lg:hidden">
          <kbd className="key">{key}</kbd> {words}
        </span>
      ))}
      <button type="button" className="cursor-pointer disabled:opacity-50" onClick={job.undo} disabled={!job.undoLabel}>
        {letters && <kbd className="key">Z</kbd>} undo
        {job.undoLabel && <span className="inline-block max-w-44 max-sm:hidden truncate align-bottom">: {job.undoLabel}</span>}
      </button>
      <button type="button" className="cursor-pointer disabled:opacity-50" onClick={job.redo} disabled={!job.redoLabel}>
        {letters && <kbd className="key">⇧Z</kbd>} redo
      </button>
      <button type="button" className="cursor-pointer max-sm:hidden" onClick={onHelp}>
        <kbd className="key">?</kbd> all keys
      </button>
      {loading && <span className="ml-auto min-w-0 truncate opacity-80 max-sm:hidden">{loading}</span>}
      <span className={loading ? "" : "ml-auto"} role="status" data-save={save}>
        {save === "refused" || (save === "offline" && saveError) ? `${SAVE_WORDS.refused}: ${saveError}` : SAVE_WORDS[save]}
        {!kept && save !== "saved" && ". This browser has no room to keep it: do not close this page"}
      </span>
    </footer>
  );
}
