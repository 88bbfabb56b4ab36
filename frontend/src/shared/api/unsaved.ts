/** Whatever a job's screen has not saved yet, by job: what the server is asked about must be there first. */
const waits = new Map<number, () => Promise<void>>();

/** Until it is taken back, changes at the server wait for `until`. */
export function waitFor(jobId: number, until: () => Promise<void>) {
  waits.set(jobId, until);
  return () => {
    if (waits.get(jobId) === until) waits.delete(jobId);
  };
}

/** A change at the server that waits until the job as it is on the screen is stored. */
export const afterStored =
  <I, O>(jobId: number | undefined, change: (input: I) => Promise<O>) =>
  async (input: I) => {
    await stored(jobId);
    return change(input);
  };

/** Resolves when the job as it is on the screen is stored; rejects with why where it cannot be. */
export const stored = (jobId: number | undefined) =>
  (jobId === undefined ? undefined : waits.get(jobId)?.()) ?? Promise.resolve();
