import type { JobDoc, LayoutDoc } from "../api/client";
import type { Plan } from "./geometry";

type Drawn = { plan: Plan; doc: JobDoc; layout: LayoutDoc | undefined };

/** Whether two states differ in fans alone, or not at all: what is drawn without fans can then stay as it is. */
export const sameButFans = (a: Drawn, b: Drawn) =>
  a.plan === b.plan && a.doc.parts === b.doc.parts && a.doc.base === b.doc.base && alike(a.layout, b.layout, ["fans"]);

/** Whether two sets of properties hold the same things, list by list. */
export const sameProps = (a: object, b: object) => alike(a, b, []);

function alike(a: object | undefined, b: object | undefined, apart: string[]): boolean {
  if (a === b) return true;
  if (!a || !b) return false;
  const [was, is] = [a as Record<string, unknown>, b as Record<string, unknown>];
  return [...new Set([...Object.keys(was), ...Object.keys(is)])].every(
    (name) => apart.includes(name) || same(was[name], is[name]),
  );
}

const same = (a: unknown, b: unknown) =>
  a === b || (Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((x, i) => x === b[i]));
