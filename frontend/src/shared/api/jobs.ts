import { answered, client, type JobDoc } from "./client";

/** A job as it is stored, with the number of its revision. */
export const storedJob = (id: number) => answered(client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } }));

/** Stores a document made on ``revision``; ``key`` names the attempt, so that the same sent twice is taken once. */
export const storeJob = (id: number, revision: number, document: JobDoc, key: string) =>
  answered(
    client.PUT("/api/jobs/{job_id}", {
      params: { path: { job_id: id } },
      body: { revision, document: document as never, key },
    }),
  );

/** A document as a job of its own. */
export const importJob = (document: JobDoc) => answered(client.POST("/api/jobs/import", { body: asFile(document) as never }));

function asFile(document: JobDoc): FormData {
  const form = new FormData();
  form.append("file", new File([JSON.stringify(document)], "job.oventa.json", { type: "application/json" }));
  return form;
}
