import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "@/shared/api/client";
import { previewRun, useImportRun } from "@/shared/api/hooks";
import { pointChannels } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { CAUTIONS, Caution } from "@/shared/ui/Caution";
import { CHANNELS, channelWords, minutes } from "@/shared/ui/channels";
import { NumberField } from "@/shared/ui/NumberField";
import { StandIn } from "./StandIn";

type Props = { layoutId: string; onClose: () => void; onDone: (runId: number) => void };

/** How to run it fairly, then the log: chosen, read, mapped, checked, and only then stored. */
export function ImportPanel({ layoutId, onClose, onDone }: Props) {
  const { id, document } = useJob();
  const [file, setFile] = useState<File | null>(null);
  const [mapping, setMapping] = useState<Record<string, string | null>>({});
  const [roomC, setRoomC] = useState<number | null>(null);
  const preview = useQuery({
    queryKey: ["preview", file?.name, file?.size, file?.lastModified, mapping],
    queryFn: () => previewRun(file as File, mapping),
    enabled: file !== null,
    retry: false,
    gcTime: 0,
    placeholderData: (before) => before,
  });
  const store = useImportRun(id);
  const found = file ? preview.data : undefined;
  return (
    <section className="flex flex-col gap-3 rounded-box border border-base-content bg-paper p-4" aria-label="Bring in a log">
      <Head remark={`for layout ${layoutId}`}>Start a run, or bring in its log</Head>
      <Caution more={CAUTIONS.runMore}>{CAUTIONS.run}</Caution>
      <p className="text-[13.5px]">
        Is it a{" "}
        <strong>
          {[document.case.name || "case without a name", document.case.revision].filter(Boolean).join(", revision ")}
        </strong>{" "}
        that stands on the bench? If not, say so in Survey first: a run counts for this case alone.
      </p>
      <ol className="list-inside list-decimal text-[13.5px] leading-relaxed">
        <li>Panels as the layout says, fans at their speeds, the same load as in your other runs.</li>
        <li>Log temperatures and the room's to a CSV file; hold the room probe away from warm air that leaves the case.</li>
        <li>Run until nothing climbs: half an hour for air, longer with a coolant loop. Then choose the file.</li>
      </ol>
      <label className="flex flex-col gap-1 text-[13px] text-faint">
        Log file of the run (CSV, TSV or text)
        <input
          type="file"
          accept=".csv,.tsv,.txt,.log,text/csv,text/plain"
          className="file-input file-input-sm w-full max-w-md text-base-content"
          onChange={(e) => {
            setMapping({});
            setFile(e.target.files?.[0] ?? null);
          }}
        />
      </label>
      {preview.error && file && (
        <p role="alert" className="rounded-md border border-error p-2 text-[13px]">
          This file cannot be taken in. {preview.error.message} Nothing was stored.
        </p>
      )}
      {found && !preview.error && (
        <>
          <Columns found={found} mapping={mapping} onMap={(heading, channel) => setMapping({ ...mapping, [heading]: channel })} />
          {!found.has_room && (
            <div className="flex flex-wrap items-end gap-3">
              <NumberField
                label="Room temperature during the run"
                kind="temperature"
                low={-20}
                high={60}
                optional="needed"
                value={roomC}
                onCommit={setRoomC}
              />
              <p className="text-[13px] text-warning">
                The file has no room temperature. Without one the run is marked not comparable.
              </p>
            </div>
          )}
        </>
      )}
      {store.error && (
        <p role="alert" className="text-[13px] text-error">
          {store.error.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button
          strong
          disabled={!found || Boolean(preview.error) || store.isPending}
          onClick={() =>
            file && store.mutate({ file, layout: layoutId, mapping, roomC, name: "" }, { onSuccess: (run) => onDone(run.id) })
          }
        >
          {store.isPending
            ? "Reading it in …"
            : !found || found.has_room || roomC !== null
              ? `Take it in as a run of ${layoutId}`
              : "Take it in, not comparable"}
        </Button>
        <Button onClick={onClose}>Cancel</Button>
      </div>
      <StandIn layoutId={layoutId} onDone={onDone} />
    </section>
  );
}

function Columns(props: {
  found: Schemas["PreviewOut"];
  mapping: Record<string, string | null>;
  onMap: (heading: string, channel: string | null) => void;
}) {
  const { found } = props;
  const { document } = useJob();
  const points = pointChannels(document);
  return (
    <div className="flex flex-col gap-2">
      <p className="text-[13.5px]">
        {found.rows} rows over {minutes(found.duration_s)}. Check what each column is:
      </p>
      <table className="w-full max-w-xl text-[13.5px]">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">in the file</th>
            <th className="font-normal">taken as</th>
          </tr>
        </thead>
        <tbody>
          {found.columns.map((c) => (
            <tr key={c.heading} className="border-t hairline">
              <td className="py-1 pr-3 font-mono">{c.heading}</td>
              <td className="py-1">
                <Select
                  label={`Column ${c.heading}`}
                  compact
                  value={c.channel ?? ""}
                  empty="left out"
                  choices={[...new Set([...(c.channel ? [c.channel] : []), ...CHANNELS, ...points.keys()])].map((v) => ({
                    value: v,
                    words: points.get(v) ?? channelWords(v),
                  }))}
                  onChange={(v) => props.onMap(c.heading, v || null)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.questions.map((q) => (
        <p key={q} className="text-[13px] text-warning">
          Please check: {q.replace(/\b[a-z]+(_[a-z0-9]+)*_(c|w|rpm|mhz|dba)\b/g, channelWords)}
        </p>
      ))}
      {found.notes.map((n) => (
        <p key={n} className="text-[13px] text-faint">
          {n}
        </p>
      ))}
    </div>
  );
}
