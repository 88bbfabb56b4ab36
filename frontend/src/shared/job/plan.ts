import { usual } from "@/shared/words/words";
import type { JobDoc, Schemas } from "../api/client";

type ProtocolDoc = Schemas["ProtocolDoc"];

/** The newest version of every protocol, in the order they were taken up. */
export function latestProtocols(doc: JobDoc): ProtocolDoc[] {
  const found = new Map<string, ProtocolDoc>();
  for (const p of doc.protocols ?? []) {
    const known = found.get(p.id);
    if (!known || versionOf(p) > versionOf(known)) found.set(p.id, p);
  }
  return [...found.values()];
}

/** A protocol that says nothing of it is in its first version. */
export const versionOf = (p: ProtocolDoc) => p.version ?? usual("protocols.*.version");
export const protocolKey = (p: ProtocolDoc) => `${p.id} v${versionOf(p)}`;

/** Changes a protocol; a version that runs were made with stays as it was and the next one is made. */
export function changeProtocol(doc: JobDoc, id: string, used: Set<string>, change: (p: ProtocolDoc) => void) {
  const own = latestProtocols(doc).find((p) => p.id === id);
  if (!own) return;
  if (!used.has(protocolKey(own))) return change(own);
  const next = { ...structuredClone(JSON.parse(JSON.stringify(own))), version: versionOf(own) + 1 } as ProtocolDoc;
  change(next);
  doc.protocols = [...(doc.protocols ?? []), next];
}

/** One more run of each layout at the end of the plan; nothing where nothing has been planned yet. */
export function planAgain(doc: JobDoc, layouts: string[], load: string) {
  const plan = doc.plan;
  if (!plan) return;
  const runs = plan.runs ?? [];
  const taken = new Set(runs.map((r) => r.id));
  const free = () => {
    let n = runs.length + 1;
    while (taken.has(`r${n}`)) n++;
    taken.add(`r${n}`);
    return `r${n}`;
  };
  plan.runs = [
    ...runs,
    ...layouts.map((layout) => ({
      id: free(),
      layout,
      protocol: plan.protocol,
      load: load as "both",
      role: "repeat" as const,
      nth: runs.filter((r) => r.layout === layout && (r.load ?? "both") === load).length + 1,
    })),
  ];
}
