import { useState } from "react";
import type { Schemas } from "@/shared/api/client";
import { readParts } from "@/shared/api/hooks";
import { freeId } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { FileButton } from "@/shared/ui/FileButton";

type Raw = Record<string, unknown> & { id: string };

/** All parts out as a file, and parts from a file onto the table; what is there stays. */
export function PartsFiles() {
  const { id, document, edit } = useJob();
  const [said, setSaid] = useState<{ bad: boolean; words: string } | null>(null);
  const load = async (file: File) => {
    try {
      const { parts } = await readParts(file);
      let count = 0;
      edit(`parts from ${file.name}`, (d) => {
        const own = { ...(d.parts ?? {}) } as Record<string, unknown>;
        for (const [kind, fresh] of Object.entries(parts)) {
          const there = [...((own[kind] ?? []) as Raw[])];
          for (const part of fresh as Raw[]) {
            const same = there.find((p) => p.id === part.id);
            if (same && JSON.stringify(same) === JSON.stringify(part)) continue;
            const used = there.map((p) => p.id);
            there.push({ ...part, id: freeId(used, part.id) });
            count += 1;
          }
          own[kind] = there;
        }
        d.parts = own as Schemas["PartsDoc"];
      });
      setSaid({ bad: false, words: `${count} parts from ${file.name} are on the table; Undo takes them off again.` });
    } catch (error) {
      setSaid({ bad: true, words: error instanceof Error ? error.message : String(error) });
    }
  };
  const any = Object.values(document.parts ?? {}).some((v) => Array.isArray(v) && v.length);
  return (
    <div className="flex flex-wrap items-center gap-3 text-small">
      <FileButton words="Parts from a file, CSV or JSON" accept=".json,.csv,.tsv,text/csv,application/json" onFile={load} />
      {any && (
        <span>
          save them as{" "}
          <a className="underline" href={`/api/jobs/${id}/parts.csv`} download>
            CSV
          </a>{" "}
          or{" "}
          <a className="underline" href={`/api/jobs/${id}/parts.json`} download>
            JSON
          </a>
        </span>
      )}
      {said && (
        <span role={said.bad ? "alert" : "status"} className={said.bad ? "text-error" : ""}>
          {said.words}
        </span>
      )}
    </div>
  );
}
