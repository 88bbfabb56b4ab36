import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";
import type { JobDoc, LayoutFigure, LayoutForecast, Load } from "../api/client";
import { type Conditions, LOADS, USUAL } from "../api/conditions";
import { useComparison, useForecast } from "../api/hooks";
import { useReadLevels } from "../api/sounds";
import { num } from "../words/lists";
import { useInAddress } from "./address";
import { useJob } from "./store";

type Workbench = {
  layoutId: string;
  choose: (id: string) => void;
  /** Shows a layout while a station is open, without choosing it for the others; null gives the chosen one back. */
  lend: (id: string | null) => void;
  lent: string | null;
  reference: string;
  setReference: (id: string) => void;
  /** Whether forecasts rest on what this job's runs have taught; null where there are none. */
  by: By | null;
  setBy: (by: By) => void;
  conditions: Conditions;
  setConditions: (conditions: Conditions) => void;
  rackForecasts: Map<string, LayoutForecast>;
  measured: Map<string, LayoutFigure[]>;
  /** Whether it is known by now which layouts were measured. */
  compared: boolean;
  /** Whether it is known by now what forecasts are to be learned from: what costs much is not asked before. */
  asTaught: boolean;
  focusMount: string | null;
  setFocusMount: (mount: string | null) => void;
};

const WorkbenchContext = createContext<Workbench | null>(null);

export function useWorkbench(): Workbench {
  const bench = useContext(WorkbenchContext);
  if (!bench) throw new Error("useWorkbench outside of WorkbenchProvider");
  return bench;
}

export type By = "learned" | "sheets";
const BY: readonly By[] = ["learned", "sheets"];
const RACK_PAUSE_MS = 500;

/** How many lessons of other jobs the parts bring along. */
function lessonsIn(document: JobDoc): number {
  const parts = document.parts;
  const of = (list: { lessons?: unknown[]; level_lessons?: unknown[] }[] | undefined) =>
    (list ?? []).reduce((sum, p) => sum + num(p.lessons?.length) + num(p.level_lessons?.length), 0);
  return of(parts?.fans) + of(parts?.coolers) + of(parts?.radiators) + of(parts?.cards);
}

/** What stays put from Layouts to Verdict: the chosen tag, the reference, the load, and the figures on the tags. */
export function WorkbenchProvider({ children }: { children: ReactNode }) {
  const { id, document } = useJob();
  const ids = (document.layouts ?? []).map((x) => x.id);
  const [remembered] = useState(() => localStorage.getItem(`oventa-layout-${id}`) ?? "");
  const [said, say] = useInAddress<string>("layout", "");
  const chosen = ids.includes(said) ? said : remembered;
  const [lent, lend] = useState<string | null>(null);
  const [wantedReference, setReference] = useInAddress<string>("against", "");
  const [load, setLoad] = useInAddress<Load>("load", USUAL.load, LOADS);
  const [room, setRoom] = useInAddress<Conditions["room"]>("room", USUAL.room, ["usual", "worst"]);
  const [own, setOwn] = useState({ cpuPct: USUAL.cpuPct, cardPct: USUAL.cardPct });
  const worstC = document.room?.worst_temperature_c ?? USUAL.worstC;
  const comparison = useComparison(id);
  const runs = (comparison.data?.figures ?? []).reduce((sum, f) => sum + f.runs, 0);
  const levels = useReadLevels(id);
  const asTaught = !comparison.isPending && !levels.isPending;
  const sweeps = (levels.data ?? []).reduce((sum, x) => sum + x.readings, 0);
  const taught = runs + sweeps + useMemo(() => lessonsIn(document), [document]);
  const [by, setBy] = useInAddress<By>("by", "learned", BY);
  const conditions = useMemo(
    () => ({ ...own, load, room, worstC, lessons: by === "learned" && taught > 0 ? { job: id, runs: taught } : null }),
    [own, load, room, worstC, by, taught, id],
  );
  const [focusMount, setFocusMount] = useState<string | null>(null);
  const shown = lent !== null && ids.includes(lent) ? lent : chosen;
  const layoutId = ids.includes(shown) ? shown : (ids[0] ?? "");
  const reference = ids.includes(wantedReference) ? wantedReference : (ids[0] ?? "");
  const calm = useCalm(document, RACK_PAUSE_MS);
  const rack = useForecast(calm, null, conditions, null, false, asTaught && missingParts(calm).length === 0);

  const value = useMemo<Workbench>(() => {
    const measured = new Map<string, LayoutFigure[]>();
    for (const figure of comparison.data?.figures ?? [])
      measured.set(figure.layout, [...(measured.get(figure.layout) ?? []), figure]);
    return {
      layoutId,
      choose: (next) => {
        localStorage.setItem(`oventa-layout-${id}`, next);
        say(next);
        lend(null);
      },
      lend,
      lent,
      reference,
      setReference,
      by: taught > 0 ? by : null,
      setBy,
      conditions,
      setConditions: (next) => {
        if (next.load !== load) setLoad(next.load);
        if (next.room !== room) setRoom(next.room);
        setOwn({ cpuPct: next.cpuPct, cardPct: next.cardPct });
      },
      rackForecasts: new Map((rack.data?.forecast?.layouts ?? []).map((x) => [x.id, x])),
      measured,
      compared: !comparison.isPending,
      asTaught,
      focusMount,
      setFocusMount,
    };
  }, [
    id,
    say,
    layoutId,
    lent,
    reference,
    setReference,
    conditions,
    by,
    setBy,
    taught,
    load,
    setLoad,
    room,
    setRoom,
    rack.data,
    comparison.data,
    asTaught,
    comparison.isPending,
    focusMount,
  ]);
  return <WorkbenchContext value={value}>{children}</WorkbenchContext>;
}

/** A value that follows after a pause, so that the tags do not compete with the layout at hand. */
function useCalm<T>(value: T, pauseMs: number): T {
  const [calm, setCalm] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setCalm(value), pauseMs);
    return () => clearTimeout(timer);
  }, [value, pauseMs]);
  return calm;
}

/** A job without a forecast says what it lacks, station by station. */
export function missingParts(document: {
  parts?: { cpus?: unknown[]; coolers?: unknown[]; fans?: unknown[] };
  base?: { cpu?: unknown; cooler?: unknown };
}) {
  const lacks: string[] = [];
  if (!document.base?.cpu) lacks.push("a processor");
  if (!document.base?.cooler) lacks.push("a cooler");
  if (!document.parts?.fans?.length) lacks.push("fans on hand");
  return lacks;
}
