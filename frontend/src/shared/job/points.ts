import type { JobDoc } from "../api/client";

/** One channel for each named point, to choose from: by its sensor's number where it has one. */
export function pointChoices(document: JobDoc): string[] {
  return (document.points ?? []).map((p) => `air_${p.sensor || p.id}_c`);
}

/** Channels of the job's named points with their names: by the point's id, and by the number of its sensor. */
export function pointChannels(document: JobDoc): Map<string, string> {
  const found = new Map<string, string>();
  for (const p of document.points ?? []) {
    found.set(`air_${p.id}_c`, p.name || p.id);
    if (p.sensor) found.set(`air_${p.sensor}_c`, p.name || p.id);
  }
  return found;
}
