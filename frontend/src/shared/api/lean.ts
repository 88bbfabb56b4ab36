import type { JobDoc } from "./client";

const made = new WeakMap<JobDoc, JobDoc>();

/** The document as questions of the engine need it: without its pictures, which would go along with every one of them. */
export function lean(document: JobDoc): JobDoc {
  const known = made.get(document);
  if (known) return known;
  const { photo: _photo, ...bare } = document.case;
  const layouts = document.layouts?.map((x) => (x.picture ? { ...x, picture: "" } : x));
  const found = { ...document, case: bare, ...(layouts ? { layouts } : {}) };
  made.set(document, found);
  return found;
}
