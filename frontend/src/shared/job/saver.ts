import { ApiError, type JobDoc } from "../api/client";
import { storedJob, storeJob } from "../api/jobs";
import { type Draft, dropDraft, freshKey, keepDraft, type Pending } from "./drafts";

export type SaveState = "saved" | "saving" | "offline" | "refused" | "conflict";

/** Two states of one job, of which a person chooses. `shown`: which of them is on the screen. */
export type Conflict = { mine: JobDoc; theirs: JobDoc; revision: number; shown: "mine" | "theirs"; at: number | null };

/** `kept`: what is not saved lies in the browser's storage. */
export type Saving = { save: SaveState; saveError: string | null; conflict: Conflict | null; kept: boolean };

type Work = { document: JobDoc; changes: number };

const SAVE_AFTER_MS = 350;
const KEEP_AFTER_MS = 120;
const AGAIN_MS = [1500, 1500, 3000];
const LONGEST_MS = 5000;

export const same = (a: JobDoc, b: JobDoc) => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));

function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (!value || typeof value !== "object") return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([k, v]) => [k, sorted(v)]),
  );
}

/**
 * Saves every change after a short pause, one save at a time. What is not saved lies in the browser's storage. A save whose answer was
 * lost is sent again as it was, under its own key, before anything newer.
 */
export class Saver {
  private pending: (Pending & { changes: number }) | null = null;
  private savedChanges = 0;
  private busy = false;
  private tries = 0;
  private saveTimer = 0;
  private keepTimer = 0;
  private state: Saving = { save: "saved", saveError: null, conflict: null, kept: true };
  private readonly listeners = new Set<() => void>();

  constructor(
    private readonly id: number,
    private readonly tab: string,
    private revision: number,
    private work: Work,
    pending: Pending | null,
    conflict: Conflict | null,
  ) {
    if (pending) this.pending = { ...pending, changes: 0 };
    if (conflict) this.state = { ...this.state, conflict };
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly current = () => this.state;

  /** The document as it now stands on the screen. */
  edited(document: JobDoc, changes: number) {
    this.work = { document, changes };
    clearTimeout(this.saveTimer);
    clearTimeout(this.keepTimer);
    if (changes === this.savedChanges && !this.pending) return;
    this.keepTimer = window.setTimeout(this.keep, KEEP_AFTER_MS);
    if (this.waitsForChoice) return;
    this.tell({ save: "saving" });
    this.saveTimer = window.setTimeout(this.push, SAVE_AFTER_MS);
  }

  /** What is not saved yet into the browser's storage, at once. */
  readonly keep = () => {
    clearTimeout(this.keepTimer);
    if (this.work.changes === this.savedChanges && !this.pending) return;
    const { pending } = this;
    const draft: Draft = {
      tab: this.tab,
      at: Date.now(),
      revision: this.revision,
      document: this.work.document,
      pending: pending && { key: pending.key, revision: pending.revision, document: pending.document },
    };
    const kept = keepDraft(this.id, draft);
    if (kept !== this.state.kept) this.tell({ kept });
  };

  /** Resolves when what is on the screen is stored; rejects with why where it is refused, waits for a choice or nobody answers. */
  readonly stored = () =>
    new Promise<void>((resolve, reject) => {
      const look = () => {
        const { save, saveError } = this.state;
        if (this.work.changes === this.savedChanges && !this.pending && save !== "refused") resolve();
        else if (save === "saving" || save === "saved") return false;
        else reject(new Error(saveError ?? "The last change is not stored yet: the server does not answer."));
        return true;
      };
      clearTimeout(this.saveTimer);
      if (this.state.save === "offline") this.tell({ save: "saving" }); // tried once more
      void this.push();
      if (look()) return;
      const away = this.subscribe(() => look() && away());
    });

  /** The screen is left: nothing waits for a timer any more. */
  leave() {
    this.keep();
    clearTimeout(this.saveTimer);
    void this.push();
  }

  /** Whether closing the window now would lose something. */
  get wouldLose() {
    return !this.state.kept && (this.work.changes !== this.savedChanges || this.pending !== null);
  }

  /** A person has chosen: `document` is on the screen from now on, made on `revision`, and saved unless it is the stored state itself. */
  chosen(revision: number, stored: boolean, changes: number) {
    this.revision = revision;
    this.pending = null;
    if (stored) {
      this.savedChanges = changes;
      dropDraft(this.id, this.tab);
    }
    this.tell({ conflict: null, saveError: null, save: stored ? "saved" : "saving" });
  }

  /** A person has chosen what to do with a state that was left in the browser; saving has gone on meanwhile. */
  settled() {
    this.tell({ conflict: null });
  }

  private get waitsForChoice() {
    return this.state.conflict?.shown === "mine";
  }

  private readonly push = async () => {
    if (this.busy || this.waitsForChoice) return;
    if (!this.pending && this.savedChanges === this.work.changes) return;
    this.busy = true;
    this.pending ??= { key: freshKey(), revision: this.revision, ...this.work };
    const sent = this.pending;
    try {
      const done = await storeJob(this.id, sent.revision, sent.document, sent.key);
      this.revision = done.revision;
      this.savedChanges = sent.changes;
      this.pending = null;
      this.tries = 0;
      if (this.work.changes === sent.changes) {
        clearTimeout(this.keepTimer);
        dropDraft(this.id, this.tab);
        this.tell({ save: "saved", saveError: null, kept: true });
      } else {
        this.keep();
      }
    } catch (error) {
      await this.failed(error, sent);
    } finally {
      this.busy = false;
      const open = this.pending !== null || this.savedChanges !== this.work.changes;
      if (open && !this.waitsForChoice) {
        const pause = this.tries ? (AGAIN_MS[this.tries] ?? LONGEST_MS) : 0;
        this.saveTimer = window.setTimeout(this.push, pause);
      }
    }
  };

  private async failed(error: unknown, sent: Pending & { changes: number }) {
    const known = error instanceof ApiError ? error : null;
    const words = error instanceof Error ? error.message : String(error);
    this.keep();
    if (!known || known.status === 0 || known.status >= 500) {
      this.tries += 1; // whether it was taken is not known: the same is sent again
      this.tell({ save: "offline", saveError: known && known.status >= 500 ? words : null });
      return;
    }
    this.pending = null;
    if (known.status === 409) {
      await this.clash(words);
      return;
    }
    this.savedChanges = sent.changes; // refused for what it says: only another change can help
    this.tell({ save: "refused", saveError: words });
  }

  /** Another window has saved: what it made is fetched, and a person chooses. */
  private async clash(words: string) {
    try {
      const newest = await storedJob(this.id);
      const theirs = newest.document as JobDoc;
      if (same(theirs, this.work.document)) {
        this.chosen(newest.revision, true, this.work.changes);
        return;
      }
      const conflict: Conflict = { mine: this.work.document, theirs, revision: newest.revision, shown: "mine", at: null };
      this.tell({ save: "conflict", saveError: words, conflict });
    } catch {
      this.tries += 1;
      this.tell({ save: "offline", saveError: null });
    }
  }

  private tell(change: Partial<Saving>) {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}
