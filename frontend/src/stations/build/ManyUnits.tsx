import { useState } from "react";
import { useHandIn } from "@/shared/api/build";
import { Button, TextField } from "@/shared/ui/bits";
import { LogAndRoom } from "@/shared/ui/LogAndRoom";
import { said, UNIT_VERDICTS } from "@/shared/words/words";

type Row = { file: File; serial: string; state: "waiting" | "held" | "in" | "refused"; told: string };

const plain = (name: string) => name.replace(/\.[^.]*$/, "").trim();

/** Logs of many units at once: each serial number is its file's name until another is typed; what is refused says why and stays. */
export function ManyUnits({ job, layout, known }: { job: number; layout: string; known: string[] }) {
  const hand = useHandIn(job, layout);
  const [rows, setRows] = useState<Row[]>([]);
  const [signedBy, setSignedBy] = useState("");
  const [roomC, setRoomC] = useState<number | null>(null);
  const [busy, setBusy] = useState(false);
  const change = (at: number, next: Partial<Row>) => setRows((own) => own.map((r, i) => (i === at ? { ...r, ...next } : r)));
  const serials = rows.map((r) => r.serial.trim());
  const twice = serials.filter((s, i) => s !== "" && serials.indexOf(s) !== i);
  const left = rows.filter((r) => r.state !== "in");
  const go = async () => {
    setBusy(true);
    for (const [at, row] of rows.entries()) {
      if (row.state === "in") continue;
      change(at, { state: "held", told: "" });
      try {
        const unit = await hand.mutateAsync({ file: row.file, serial: row.serial.trim(), signedBy, roomC });
        change(at, { state: "in", told: said(UNIT_VERDICTS, unit.result.verdict) });
      } catch (error) {
        change(at, { state: "refused", told: error instanceof Error ? error.message : String(error) });
      }
    }
    setBusy(false);
  };
  return (
    <details className="text-small" data-many={rows.length}>
      <summary className="cursor-pointer">Many units at once</summary>
      <div className="mt-2 flex flex-col gap-3">
        <div className="flex flex-wrap items-end gap-3">
          <LogAndRoom
            many
            onFiles={(files) => setRows(files.map((file) => ({ file, serial: plain(file.name), state: "waiting", told: "" })))}
            roomC={roomC}
            onRoom={setRoomC}
          />
          <TextField label="All signed by" value={signedBy} onChange={setSignedBy} />
          <Button strong disabled={busy || !left.length || twice.length > 0 || serials.includes("")} onClick={() => go()}>
            {busy ? "Holding them against the reference …" : `Hold ${left.length || ""} against the reference`}
          </Button>
        </div>
        {twice.length > 0 && (
          <p role="alert" className="text-error">
            {twice.join(", ")} stands twice: give each unit a serial number of its own.
          </p>
        )}
        {rows.length > 0 && (
          <ul className="flex flex-col">
            {rows.map((r, at) => (
              <li key={r.file.name} className="flex flex-wrap items-end gap-3 border-b hairline py-1" data-row={r.state}>
                <TextField
                  label={`Serial number of ${r.file.name}`}
                  value={r.serial}
                  onChange={(serial) => change(at, { serial })}
                />
                <span className={`min-w-0 flex-1 pb-1 ${r.state === "refused" ? "text-error" : ""}`}>
                  {r.state === "waiting" && (known.includes(r.serial.trim()) ? "has a run; the new one will count" : "waits")}
                  {r.state === "held" && "is being held against the reference …"}
                  {(r.state === "in" || r.state === "refused") && r.told}
                </span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </details>
  );
}
