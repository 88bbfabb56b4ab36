import { num } from "@/shared/words/lists";
import type { JobDoc } from "../api/client";

/** A save on its way: sent again as it is, with the same key, until there is an answer. */
export type Pending = { key: string; revision: number; document: JobDoc };

/** What a window holds of a job and has not saved yet. `revision`: what its changes were made on. */
export type Draft = { tab: string; at: number; revision: number; document: JobDoc; pending: Pending | null };

const TAB = "oventa-tab";
const prefix = (id: number) => `oventa-draft-${id}`;
const keyOf = (id: number, tab: string) => `${prefix(id)}-${tab}`;
const lockOf = (tab: string) => `oventa-tab-${tab}`;

export const freshKey = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (n) => n.toString(16).padStart(2, "0")).join("");

/** Keeps a draft in the browser; false when there is no room for it. */
export function keepDraft(id: number, draft: Draft): boolean {
  try {
    localStorage.setItem(keyOf(id, draft.tab), JSON.stringify(draft));
    return true;
  } catch {
    return false;
  }
}

export const dropDraft = (id: number, tab: string) => localStorage.removeItem(keyOf(id, tab));

/** Drafts of a job that no other open window is working on, the newest first. One that cannot be read is left where it is. */
export async function draftsLeft(id: number, own: string): Promise<Draft[]> {
  const living = await livingTabs();
  const found: Draft[] = [];
  for (const key of Object.keys(localStorage)) {
    const tab = key === prefix(id) ? "" : key.startsWith(`${prefix(id)}-`) ? key.slice(prefix(id).length + 1) : null;
    if (tab === null || (tab !== own && living.has(tab))) continue;
    const draft = parsed(localStorage.getItem(key));
    if (draft) found.push({ ...draft, tab });
  }
  return found.sort((a, b) => b.at - a.at);
}

export function dropLeft(id: number, draft: Draft) {
  localStorage.removeItem(draft.tab ? keyOf(id, draft.tab) : prefix(id));
}

function parsed(text: string | null): Draft | null {
  try {
    const raw = JSON.parse(text ?? "null");
    if (typeof raw?.revision !== "number" || typeof raw.document !== "object" || !raw.document) return null;
    return { tab: "", at: num(raw.at), revision: raw.revision, document: raw.document, pending: raw.pending ?? null };
  } catch {
    return null;
  }
}

async function livingTabs(): Promise<Set<string>> {
  const held = (await navigator.locks?.query())?.held ?? [];
  return new Set(held.map((lock) => lock.name?.slice(lockOf("").length) ?? ""));
}

let claimed: Promise<string> | null = null;

/** This window's own name, the same after a reload. A window that was duplicated gets one of its own. */
export function ownTab(): Promise<string> {
  claimed ??= claim();
  return claimed;
}

async function claim(): Promise<string> {
  const known = sessionStorage.getItem(TAB);
  // The page that stood here before a reload may hold the name for a moment longer.
  for (let i = 0; known && i < 4; i++) {
    if (await hold(known)) return known;
    await new Promise((go) => setTimeout(go, 80));
  }
  const fresh = freshKey().slice(0, 12);
  sessionStorage.setItem(TAB, fresh);
  await hold(fresh);
  return fresh;
}

/** Holds a name for as long as this window lives; false when another window has it. */
function hold(tab: string): Promise<boolean> {
  if (!navigator.locks) return Promise.resolve(true);
  return new Promise((told) => {
    navigator.locks.request(lockOf(tab), { ifAvailable: true }, (lock) => {
      told(lock !== null);
      return lock ? new Promise<void>(() => {}) : undefined;
    });
  });
}
