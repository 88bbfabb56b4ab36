import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "@/shared/api/client";
import { previewRun, useChangeRun, useImportRun } from "@/shared/api/hooks";
import { pointChannels, pointChoices } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { minutes } from "@/shared/units/convert";
import { CAUTIONS, channelWords, LOG_UNITS, MAPPED_CHANNELS, within } from "@/shared/words/words";
import { StandIn } from "./StandIn";

type Props = { layoutId: string; onClose: () => void; onDone: (runId: number | null) => void };
type Mapping = Record<string, string | null>;
type Item = { file: File; layout: string; mapping: Mapping; units: Record<string, string>; roomC: number | null; sure: boolean };
type Outcome = { name: string; run: number | null; words: string };

/** Logs that are there already: chosen, read, mapped, checked, and only then stored; many at once, and taken back as one. */
export function ImportPanel({ layoutId, onClose, onDone }: Props) {
  const { id, document } = useJob();
  const [items, setItems] = useState<Item[]>([]);
  const [at, setAt] = useState(0);
  const [outcomes, setOutcomes] = useState<Outcome[]>([]);
  const [reading, setReading] = useState<number | null>(null);
  const store = useImportRun(id);
  const change = useChangeRun(id);
  const item = items[at];
  const preview = usePreview(item);
  const found = item ? preview.data : undefined;
  const set = (part: Partial<Item>) => setItems(items.map((x, i) => (i === at ? { ...x, ...part } : x)));
  const takeIn = async () => {
    const done: Outcome[] = [];
    for (const [i, x] of items.entries()) {
      setReading(i);
      try {
        const run = await store.mutateAsync({ ...x, name: "" });
        done.push({ name: x.file.name, run: run.id, words: `${run.name}, ${minutes(run.duration_s)}` });
      } catch (error) {
        done.push({ name: x.file.name, run: null, words: `nothing stored: ${error instanceof Error ? error.message : error}` });
      }
      setOutcomes([...done]);
    }
    setReading(null);
    const only = done.length === 1 ? done[0] : undefined;
    if (only?.run) onDone(only.run);
  };
  const takeBack = async () => {
    for (const o of outcomes)
      if (o.run)
        await change.mutateAsync({
          id: o.run,
          change: { state: "void", void_reason: "taken back right after it was brought in" },
        });
    onDone(null);
  };
  const layouts = (document.layouts ?? []).map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }));
  return (
    <section className="flex flex-col gap-3 rounded-box border border-base-content bg-paper p-4" aria-label="Bring in a log">
      <Head remark={`for layout ${layoutId}, unless you say another`}>Bring in logs</Head>
      <Caution more={CAUTIONS.runMore}>{CAUTIONS.run}</Caution>
      <p className="text-small">
        Are they of this case,{" "}
        <strong>
          {[document.case.name || "case without a name", document.case.revision].filter(Boolean).join(", revision ")}
        </strong>
        ? If not, say so in Survey first: a run counts for this case alone.
      </p>
      <label className="flex flex-col gap-1 text-small text-faint">
        Log file of the run (CSV, TSV or text); several at once if you like
        <input
          type="file"
          multiple
          accept=".csv,.tsv,.txt,.log,text/csv,text/plain"
          className="file-input file-input-sm w-full max-w-md text-base-content"
          onChange={(e) => {
            setItems(
              [...(e.target.files ?? [])].map((file) => ({
                file,
                layout: layoutId,
                mapping: {},
                units: {},
                roomC: null,
                sure: false,
              })),
            );
            setAt(0);
            setOutcomes([]);
          }}
        />
      </label>
      {items.length > 1 && outcomes.length === 0 && (
        <div className="flex flex-wrap gap-2" role="tablist" aria-label="Files">
          {items.map((x, i) => (
            <button
              key={x.file.name + String(i)}
              type="button"
              role="tab"
              aria-selected={i === at}
              onClick={() => setAt(i)}
              className={`cursor-pointer rounded-md border px-2 py-0.5 text-small ${i === at ? "border-base-content bg-base-content text-base-100" : "hairline"}`}
            >
              {x.file.name} to {x.layout}
            </button>
          ))}
        </div>
      )}
      {preview.error && item && (
        <p role="alert" className="rounded-md border border-error p-2 text-small">
          This file cannot be taken in. {preview.error.message} Nothing was stored.
        </p>
      )}
      {item && preview.isFetching && !found && <p className="text-small">Reading {item.file.name} …</p>}
      {found && item && !preview.error && outcomes.length === 0 && (
        <>
          {items.length > 1 && (
            <Select label="It is a run of layout" value={item.layout} choices={layouts} onChange={(v) => set({ layout: v })} />
          )}
          <Columns
            found={found}
            mapping={item.mapping}
            onMap={(heading, channel) => set({ mapping: { ...item.mapping, [heading]: channel }, sure: false })}
            onUnit={(heading, unit) => set({ units: { ...item.units, [heading]: unit }, sure: false })}
          />
          {found.doubts.length > 0 && <Odd doubts={found.doubts} sure={item.sure} onSure={(sure) => set({ sure })} />}
          {!found.has_room && (
            <div className="flex flex-wrap items-end gap-3">
              <NumberField
                label="Room temperature during the run"
                kind="temperature"
                {...within("run.room_c")}
                optional="needed"
                value={item.roomC}
                onCommit={(v) => set({ roomC: v })}
              />
              <p className="text-small text-warning">
                The file has no room temperature. Without one the run is marked not comparable.
              </p>
            </div>
          )}
        </>
      )}
      {reading !== null && (
        <div className="flex items-center gap-3 text-small" role="status">
          <progress className="progress w-56" {...(items.length > 1 ? { value: reading, max: items.length } : {})} />
          Reading {items[reading]?.file.name}, {reading + 1} of {items.length}
        </div>
      )}
      {outcomes.length > 0 && (
        <ul className="text-small">
          {outcomes.map((o) => (
            <li key={o.name} role={o.run ? undefined : "alert"} className={o.run ? "" : "text-error"}>
              {o.name}: {o.words}
            </li>
          ))}
        </ul>
      )}
      <div className="flex gap-2">
        {outcomes.length === 0 ? (
          <>
            <Button
              strong
              disabled={!found || Boolean(preview.error) || reading !== null || (found.doubts.length > 0 && !item?.sure)}
              onClick={() => void takeIn()}
            >
              {items.length > 1
                ? `Take in ${items.length} logs`
                : !found || found.has_room || item?.roomC !== null
                  ? `Take it in as a run of ${item?.layout ?? layoutId}`
                  : "Take it in, not comparable"}
            </Button>
            <Button onClick={onClose}>Cancel</Button>
          </>
        ) : (
          reading === null && (
            <>
              <Button strong onClick={() => onDone(outcomes.find((o) => o.run)?.run ?? null)}>
                Done
              </Button>
              <Button onClick={() => void takeBack()}>Take all of them back</Button>
            </>
          )
        )}
      </div>
      <StandIn layoutId={layoutId} onDone={onDone} />
    </section>
  );
}

function usePreview(item: Item | undefined) {
  return useQuery({
    queryKey: ["preview", item?.file.name, item?.file.size, item?.file.lastModified, item?.mapping, item?.units],
    queryFn: () => previewRun(item?.file as File, item?.mapping ?? {}, item?.units ?? {}),
    enabled: item !== undefined,
    retry: false,
    gcTime: 0,
    placeholderData: (before, query) => (query?.queryKey[1] === item?.file.name ? before : undefined),
  });
}

/** Readings that no machine gives: nothing is stored before the column is set right, or a person says that it is so. */
function Odd(props: { doubts: Schemas["DoubtOut"][]; sure: boolean; onSure: (sure: boolean) => void }) {
  return (
    <div role="alert" className="flex max-w-xl flex-col gap-1 rounded-md border border-warning p-2 text-small" data-odd>
      {props.doubts.map((d) => (
        <p key={d.channel + d.what}>
          <strong>{channelWords(d.channel)}:</strong> {d.what}. {d.do}
        </p>
      ))}
      <label className="flex cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={props.sure}
          onChange={(e) => props.onSure(e.target.checked)}
        />
        It is so: take it in all the same
      </label>
    </div>
  );
}

const SHOWN_LEFT_OUT = 12;
const UNITS = LOG_UNITS as Readonly<Record<string, string>>;

const spread = (c: Schemas["SeenColumn"]) => {
  const text = (v: number) => (Math.abs(v) >= 100 ? v.toFixed(0) : v.toFixed(1)).replace("-", "−");
  return c.low === null || c.high === null ? "no numbers" : `${text(c.low)} to ${text(c.high)}`;
};

function Columns(props: {
  found: Schemas["PreviewOut"];
  mapping: Mapping;
  onMap: (heading: string, channel: string | null) => void;
  onUnit: (heading: string, unit: string) => void;
}) {
  const { found } = props;
  const { document } = useJob();
  const [all, setAll] = useState(false);
  const points = pointChannels(document);
  const taken = found.columns.filter((c) => c.channel !== null || c.heading in props.mapping);
  const left = found.columns.filter((c) => !taken.includes(c));
  const rows = [...taken, ...(all ? left : left.slice(0, SHOWN_LEFT_OUT))];
  return (
    <div className="flex flex-col gap-2">
      <p className="text-small">
        {found.rows} rows over {minutes(found.duration_s)}. Check what each column is:
      </p>
      <table className="w-full max-w-3xl text-small">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">in the file</th>
            <th className="font-normal">first values</th>
            <th className="font-normal">from, to</th>
            <th className="font-normal">in</th>
            <th className="font-normal">taken as</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((c) => (
            <tr key={c.heading} className="border-t hairline">
              <td className="max-w-56 py-1 pr-3 font-mono [overflow-wrap:anywhere]">{c.heading}</td>
              <td className="max-w-40 truncate py-1 pr-3 font-mono text-faint">{c.first.join("  ")}</td>
              <td className="py-1 pr-3 font-mono whitespace-nowrap">{spread(c)}</td>
              <td className="py-1 pr-2">
                <Unit column={c} onUnit={(unit) => props.onUnit(c.heading, unit)} />
              </td>
              <td className="py-1">
                <Select
                  label={`Column ${c.heading}`}
                  compact
                  value={c.channel ?? ""}
                  empty="left out"
                  choices={[...new Set([...(c.channel ? [c.channel] : []), ...MAPPED_CHANNELS, ...pointChoices(document)])].map(
                    (v) => ({
                      value: v,
                      words: points.get(v) ?? channelWords(v),
                    }),
                  )}
                  onChange={(v) => props.onMap(c.heading, v || null)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!all && left.length > SHOWN_LEFT_OUT && (
        <div>
          <Button small onClick={() => setAll(true)}>
            {left.length - SHOWN_LEFT_OUT} more columns that are left out
          </Button>
        </div>
      )}
      {found.questions.map((q) => (
        <p key={q} className="text-small text-warning">
          Please check: {q.replace(/\b[a-z]+(_[a-z0-9]+)*_(c|w|rpm|mhz|dba)\b/g, channelWords)}
        </p>
      ))}
      {found.notes.map((n) => (
        <p key={n} className="text-small text-faint">
          {n}
        </p>
      ))}
    </div>
  );
}

function Unit({ column, onUnit }: { column: Schemas["SeenColumn"]; onUnit: (unit: string) => void }) {
  const choices = column.units;
  const unit = column.unit || choices[0] || "";
  if (choices.length < 2) return <span className="text-faint">{UNITS[unit] ?? column.unit}</span>;
  return (
    <Select
      label={`Unit of ${column.heading}`}
      compact
      value={choices.includes(unit) ? unit : (choices[0] ?? "")}
      choices={choices.map((value) => ({ value, words: UNITS[value] ?? value }))}
      onChange={onUnit}
    />
  );
}
