import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { JobDoc } from "@/shared/api/client";
import { startersFor } from "@/shared/api/hooks";
import { addLayout, duplicateLayout, freeLayoutId, removeLayout } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { useKeys } from "@/shared/keys/keys";
import { useUnits } from "@/shared/units/units";
import { usual } from "@/shared/words/words";

/** The rack of lettered tags; it stays put from Layouts to Verdict. */
export function Rack() {
  const { document, edit, id } = useJob();
  const bench = useWorkbench();
  const layouts = document.layouts ?? [];

  const fresh = (label: string, make: (d: JobDoc, id: string) => void) => {
    const id = freeLayoutId(document);
    edit(`${label} ${id}`, (d) => make(d, id));
    bench.choose(id);
  };
  const add = () => fresh("new layout", (d, id) => addLayout(d, id));
  const duplicate = () => fresh(`duplicate ${bench.layoutId} as`, (d, id) => duplicateLayout(d, bench.layoutId, id));
  const remove = () => layouts.length > 1 && edit(`remove layout ${bench.layoutId}`, (d) => removeLayout(d, bench.layoutId));
  const step = (by: number) => {
    const at = layouts.findIndex((x) => x.id === bench.layoutId);
    const next = layouts[(at + by + layouts.length) % layouts.length];
    if (next) bench.choose(next.id);
  };
  useKeys([
    { key: "n", words: "new layout", letter: true, run: add },
    { key: "d", words: "duplicate the layout", letter: true, run: duplicate },
    { key: "]", words: "next layout", run: () => step(1) },
    { key: "[", words: "layout before", run: () => step(-1) },
  ]);
  return (
    <aside
      aria-label="Layouts"
      className="no-print flex w-[118px] shrink-0 flex-col gap-2 overflow-y-auto border-r border-base-content bg-base-200 py-3 pl-2 max-sm:w-full max-sm:flex-row max-sm:items-center max-sm:overflow-x-auto max-sm:border-r-0 max-sm:border-b max-sm:px-2 max-sm:py-1.5"
      data-keys="rack"
    >
      <div className="flex flex-col gap-2 max-sm:flex-row" role="listbox" aria-label="Layout tags">
        {layouts.map((x) => (
          <Tag key={x.id} id={x.id} name={x.name ?? ""} />
        ))}
      </div>
      <div className="mt-2 flex flex-col items-start gap-1.5 pl-2 text-small max-sm:mt-0 max-sm:shrink-0 max-sm:flex-row max-sm:items-center max-sm:gap-3">
        <RackAction shown="N" words="new" run={add} />
        <RackAction shown="D" words="duplicate" run={duplicate} />
        <Schools onTake={(name, layout) => fresh(name, (d, id) => addLayout(d, id, layout))} />
        {layouts.length > 0 && (
          <Link
            to="/jobs/$jobId/layouts"
            params={{ jobId: String(id) }}
            search={((before: Record<string, unknown>) => ({ ...before, view: "find" })) as never}
            className="underline underline-offset-2"
          >
            find a better one
          </Link>
        )}
        {layouts.length > 1 && (
          <button type="button" className="cursor-pointer underline underline-offset-2" onClick={remove}>
            remove {bench.layoutId}
          </button>
        )}
      </div>
      <p className="mt-auto pl-2 text-fine leading-relaxed text-faint max-sm:hidden">
        <span className="origin-forecast">forecast</span>
        <br />
        <span className="origin-measured">measured</span>
        <br />
        <span className="origin-typed">typed</span>
      </p>
    </aside>
  );
}

/** A layout of one of the schools, put together from this case and the fans at hand. */
function Schools({ onTake }: { onTake: (name: string, layout: Record<string, unknown>) => void }) {
  const { document } = useJob();
  const [found, setFound] = useState<Awaited<ReturnType<typeof startersFor>> | null>(null);
  const [fault, setFault] = useState("");
  const open = async () => {
    setFault("");
    try {
      setFound(await startersFor(document));
    } catch (error) {
      setFault(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="flex flex-col gap-1">
      <button
        type="button"
        className="cursor-pointer text-left underline underline-offset-2"
        onClick={() => (found ? setFound(null) : open())}
      >
        {found ? "never mind" : "from a school"}
      </button>
      {fault && (
        <p role="alert" className="text-error">
          {fault}
        </p>
      )}
      {found?.length === 0 && <p>Lay fans on the table first.</p>}
      {found?.map((s) => (
        <button
          key={s.key}
          type="button"
          title={s.remark}
          data-school={s.key}
          className="cursor-pointer rounded-md border hairline bg-paper px-1.5 py-1 text-left leading-tight hover:border-base-content"
          onClick={() => {
            onTake(s.name, s.layout);
            setFound(null);
          }}
        >
          {s.name}
        </button>
      ))}
    </div>
  );
}

function RackAction({ shown, words, run }: { shown: string; words: string; run: () => void }) {
  return (
    <button type="button" className="cursor-pointer" onClick={run}>
      <kbd className="key">{shown}</kbd> {words}
    </button>
  );
}

function Tag({ id, name }: { id: string; name: string }) {
  const bench = useWorkbench();
  const units = useUnits();
  const { document } = useJob();
  const on = bench.layoutId === id;
  const own = bench.measured.get(id) ?? [];
  const cpu = own.find((f) => f.channel === "cpu_package_c");
  const sound = own.find((f) => f.channel === "sound_dba");
  const forecast = bench.rackForecasts.get(id);
  const room = document.room?.temperature_c ?? usual("room.temperature_c");
  const heat = (rise: number) =>
    units.scale === "over" ? units.withUnit("difference", rise, 0) : units.withUnit("temperature", room + rise, 0);
  return (
    <button
      type="button"
      role="option"
      aria-selected={on}
      onClick={() => bench.choose(id)}
      className={`flex cursor-pointer flex-col rounded-l-box border py-1.5 pr-1 pl-6 text-left leading-tight max-sm:min-w-11 max-sm:items-center max-sm:rounded-box max-sm:px-2.5 max-sm:py-1.5 ${
        on
          ? "border-base-content bg-base-content text-base-100"
          : "ml-1.5 border-r-0 hairline bg-paper max-sm:ml-0 max-sm:border-r"
      } relative`}
    >
      <span
        className="absolute top-3 left-2 size-2.5 rounded-full border border-current bg-base-200 opacity-70 max-sm:hidden"
        aria-hidden="true"
      />
      <span className={`wide max-w-full truncate ${id.length > 3 ? "text-small" : "text-lead"}`} title={id}>
        {id}
      </span>
      <span className="text-fine break-words opacity-85 max-sm:hidden">{name}</span>
      <span className="flex flex-col font-mono text-fine max-sm:hidden">
        {cpu ? (
          <span className="origin-measured">{heat(cpu.value)}</span>
        ) : (
          forecast && <span className="origin-forecast">{heat(forecast.cpu.rise_k)}</span>
        )}
        {sound ? (
          <span className="origin-measured">{units.withUnit("level", sound.value)}</span>
        ) : (
          forecast && <span className="origin-forecast">{units.withUnit("level", forecast.sound.level_dba)}</span>
        )}
      </span>
    </button>
  );
}
