import { num } from "@/shared/words/lists";
import type { Finding } from "../api/client";

/** A finding as it is numbered and shown: several that ask different things of one fan are one, with all that is said and offered. */
export type Shown = { key: string; lead: Finding; also: Finding[] };

/** Findings in their order under keys of their own, also where two share code and mounts; those about one fan under the first of them. */
export function gathered(findings: Finding[]): Shown[] {
  const rows: Shown[] = [];
  const byFan = new Map<string, Shown>();
  const seen = new Map<string, number>();
  for (const finding of findings) {
    const row = finding.about && !finding.accepted ? byFan.get(finding.about) : undefined;
    if (row) {
      row.also.push(finding);
      continue;
    }
    const name = `${finding.code} ${finding.mounts.join(" ")}`;
    const nth = num(seen.get(name));
    seen.set(name, nth + 1);
    const made = { key: `${name} ${nth}`, lead: finding, also: [] };
    rows.push(made);
    if (finding.about && !finding.accepted) byFan.set(finding.about, made);
  }
  return rows;
}

const FOLDED_FROM = 3; // alike notes; two are read as quickly as one and a line

/** Alike notes as one with the rest behind it: the first of each code stands, the others are told by their places. */
export function folded<T extends { row: Shown }>(rows: T[]): { first: T; rest: T[] }[] {
  const plain = ({ row }: T) =>
    row.lead.severity === "note" && !row.lead.accepted && row.also.length === 0 && row.lead.mounts.length > 0;
  const count = new Map<string, number>();
  for (const r of rows.filter(plain)) count.set(r.row.lead.code, num(count.get(r.row.lead.code)) + 1);
  const found: { first: T; rest: T[] }[] = [];
  const heads = new Map<string, { first: T; rest: T[] }>();
  for (const r of rows) {
    const code = r.row.lead.code;
    const head = heads.get(code);
    if (plain(r) && num(count.get(code)) >= FOLDED_FROM) {
      if (head) head.rest.push(r);
      else {
        const made = { first: r, rest: [] };
        heads.set(code, made);
        found.push(made);
      }
    } else found.push({ first: r, rest: [] });
  }
  return found;
}

/** Everything offered against a row, each change once, the best first as the server ordered them. */
export function offers(row: Shown) {
  const found = new Map<string, NonNullable<Finding["fixes"]>[number]>();
  for (const finding of [row.lead, ...row.also])
    for (const fix of finding.fixes ?? []) if (!found.has(fix.label)) found.set(fix.label, fix);
  return [...found.values()];
}
