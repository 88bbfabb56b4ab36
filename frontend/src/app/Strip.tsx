import { Link, useParams, useRouterState } from "@tanstack/react-router";
import { useState } from "react";
import { useBuildState } from "@/shared/api/build";
import { useRuns, useVerdicts } from "@/shared/api/hooks";
import { useLiveRunName } from "@/shared/api/live";
import { useJob } from "@/shared/job/store";
import { missingParts, useWorkbench } from "@/shared/job/workbench";
import { useUnits } from "@/shared/units/units";
import { count } from "@/shared/words/lists";
import { usual } from "@/shared/words/words";
import { Mark } from "./Mark";
import { ThemeSwitch } from "./ThemeSwitch";

export const STATIONS = [
  { path: "survey", name: "Survey", rack: false },
  { path: "parts", name: "Parts", rack: false },
  { path: "layouts", name: "Layouts", rack: true },
  { path: "plan", name: "Plan", rack: true },
  { path: "bench", name: "Bench", rack: true },
  { path: "verdict", name: "Verdict", rack: true },
  { path: "build", name: "Build", rack: true },
  { path: "care", name: "Care", rack: false },
] as const;

/** The stations that work, each with its state in words. */
export function Strip() {
  const { jobId } = useParams({ strict: false });
  const states = useStates();
  return (
    <>
      <Folded states={states} />
      <nav aria-label="Stations" className="no-print flex items-stretch border-b border-base-content bg-paper max-sm:hidden">
        <Link
          to="/"
          className="flex w-[118px] shrink-0 items-center justify-center border-r border-base-content"
          aria-label="Oventa, list of jobs"
        >
          <Mark />
        </Link>
        {STATIONS.map((s, i) => (
          <Link
            key={s.path}
            to={`/jobs/$jobId/${s.path}`}
            params={{ jobId: jobId ?? "" }}
            search={true}
            className="group w-[104px] min-w-0 shrink border-r hairline px-1.5 lg:px-2.5 py-1.5 leading-tight"
            activeProps={{ className: "bg-base-content text-base-100", "aria-current": "page" }}
          >
            <span className="flex justify-between text-body font-semibold">
              {s.name}
              <span className="font-mono text-fine font-normal opacity-60 max-lg:hidden">{i + 1}</span>
            </span>
            <span className="line-clamp-3 text-fine leading-tight opacity-80 lg:line-clamp-2" title={states[s.path]}>
              {states[s.path]}
            </span>
          </Link>
        ))}
        <JobCorner />
      </nav>
    </>
  );
}

type States = ReturnType<typeof useStates>;

/** On a phone the strip is one line: the station's name opens the list of all. */
function Folded({ states }: { states: States }) {
  const { jobId } = useParams({ strict: false });
  const path = useRouterState({ select: (s) => s.location.pathname });
  const here = STATIONS.find((s) => path.endsWith(`/${s.path}`));
  const [open, setOpen] = useState(false);
  return (
    <nav
      aria-label="Stations, folded"
      className="no-print relative border-b border-base-content bg-paper sm:hidden"
      onKeyDown={(e) => e.key === "Escape" && setOpen(false)}
    >
      <div className="flex items-center gap-2 px-3 py-1.5">
        <Link to="/" aria-label="Oventa, list of jobs" className="shrink-0">
          <Mark short />
        </Link>
        <button
          type="button"
          aria-expanded={open}
          className="flex min-w-0 flex-1 cursor-pointer items-baseline gap-2 px-1 py-1 text-left"
          onClick={() => setOpen(!open)}
        >
          <strong className="wide text-lead">{here?.name ?? "Stations"}</strong>
          <span className="min-w-0 truncate text-small text-faint">{here && states[here.path]}</span>
          <span aria-hidden="true">{open ? "▴" : "▾"}</span>
        </button>
      </div>
      {open && (
        <button
          type="button"
          tabIndex={-1}
          aria-label="Close the list of stations"
          className="fixed inset-0 z-30 cursor-default"
          onClick={() => setOpen(false)}
        />
      )}
      {open && (
        <div className="absolute inset-x-0 z-40 border-b border-base-content bg-paper shadow-lg">
          <ul>
            {STATIONS.map((s) => (
              <li key={s.path}>
                <Link
                  to={`/jobs/$jobId/${s.path}`}
                  params={{ jobId: jobId ?? "" }}
                  search={true}
                  onClick={() => setOpen(false)}
                  className="flex items-baseline gap-3 border-t hairline px-4 py-2.5"
                  activeProps={{ className: "bg-base-content text-base-100", "aria-current": "page" }}
                >
                  <span className="w-20 text-body font-semibold">{s.name}</span>
                  <span className="min-w-0 truncate text-small opacity-80">{states[s.path]}</span>
                </Link>
              </li>
            ))}
          </ul>
          <div className="border-t hairline py-1">
            <JobCorner />
          </div>
        </div>
      )}
    </nav>
  );
}

function useStates(): Record<(typeof STATIONS)[number]["path"], string> {
  const { id, document } = useJob();
  const runs = useRuns(id);
  const { measured, compared } = useWorkbench();
  const mounts = count(document.case.mounts);
  const layouts = count(document.layouts);
  const lacks = missingParts(document);
  const valid = count(runs.data?.filter((r) => r.state === "valid"));
  const planned = count(document.plan?.runs);
  const madeRuns = new Set(runs.data?.filter((r) => r.state === "valid").map((r) => r.planned));
  const done = (document.plan?.runs ?? []).filter((r) => madeRuns.has(r.id)).length;
  const liveRun = useLiveRunName(id).data ?? "";
  const decided = useVerdicts(id).data?.[0];
  const ticked = useBuildState(id).data;
  const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
  return {
    survey: plural(mounts, "mount"),
    parts: lacks.length ? `needs ${lacks[0]}` : `${plural(count(document.parts?.fans), "kind")} of fan`,
    layouts: `${layouts} drawn`,
    plan: !planned ? "nothing planned" : runs.isPending ? `${planned} runs` : `${done} of ${planned} runs in`,
    bench: liveRun ? `live: ${liveRun}` : runs.isPending ? "looking …" : valid ? `${plural(valid, "run")} in` : "no runs yet",
    verdict: decided
      ? `${decided.layout} decided`
      : measured.size > 1
        ? `${measured.size} to compare`
        : measured.size === 1
          ? "one layout run"
          : compared
            ? "needs two runs"
            : "judging …",
    build:
      ticked === undefined
        ? "looking …"
        : ticked[0]
          ? `${ticked[0].layout}: ${plural(ticked[0].over, "step")} done`
          : "not begun",
    care: decided ? `${decided.layout} stands` : "once it is built",
  };
}

function JobCorner() {
  const { id, document, edit } = useJob();
  const units = useUnits();
  const room = document.room;
  const limit = room?.sound_limit_dba;
  return (
    <div className="ml-auto flex min-w-0 flex-col justify-center gap-0.5 px-3 py-1 text-right">
      <input
        aria-label="Name of the job"
        className="w-full min-w-0 truncate bg-transparent text-right text-body font-semibold"
        value={document.name}
        onChange={(e) =>
          e.target.value.trim() &&
          edit("rename the job", (d) => {
            d.name = e.target.value;
          })
        }
      />
      <span className="flex flex-wrap justify-end gap-x-2.5 text-fine whitespace-nowrap text-faint max-xl:leading-tight">
        <span className="truncate max-[1400px]:hidden">
          room {units.withUnit("temperature", room?.temperature_c ?? usual("room.temperature_c"), 0)}
          {limit ? `, ${limit} dBA` : ""}
        </span>
        <button
          type="button"
          className="cursor-pointer underline underline-offset-2"
          onClick={() => units.setScale(units.scale === "over" ? "absolute" : "over")}
          title="Temperatures over room or absolute"
        >
          {units.scale === "over" ? "over room" : "absolute"}
        </button>
        <button
          type="button"
          className="cursor-pointer underline underline-offset-2"
          onClick={() => units.setSystem(units.system === "metric" ? "trade" : "metric")}
          title="Units: metric, or CFM, mmH₂O, inch, °F"
        >
          {units.system === "metric" ? "m³/h, mm" : "CFM, inch"}
        </button>
        <a href={`/api/jobs/${id}/export`} className="underline underline-offset-2" title="The whole job as an open document">
          export
        </a>
        <a
          href={`/api/jobs/${id}/package.zip`}
          className="underline underline-offset-2"
          title="The job with its runs, pictures and analysis as an open data package (zip)"
        >
          package
        </a>
        <ThemeSwitch />
      </span>
    </div>
  );
}
