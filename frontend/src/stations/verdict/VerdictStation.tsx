import { Link } from "@tanstack/react-router";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { type Beside, useVerdict, type Verdict } from "@/shared/api/hooks";
import { useInAddress } from "@/shared/job/address";
import { NextLine } from "@/shared/job/NextRun";
import { useJob, useSaving } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { useKeys } from "@/shared/keys/keys";
import { Empty, Segments, Select } from "@/shared/ui/bits";
import { LOADS, said } from "@/shared/words/words";
import { Argument } from "./Argument";
import { BudgetPanel } from "./BudgetPanel";
import { Doubts } from "./Doubts";
import { Effects } from "./Effects";
import { Freeze, Records } from "./Freeze";
import { HowSure } from "./HowSure";
import { Probes } from "./Probes";
import { SideBySide } from "./SideBySide";
import { Tables } from "./Tables";
import { TraitsLine } from "./traits";
import { WhatCounts } from "./WhatCounts";
import { WhatMatters } from "./WhatMatters";

const FACES = [
  { value: "argument", words: "Argument", key: "argument" },
  { value: "side", words: "Side by side", key: "compare" },
  { value: "effects", words: "Effects", key: "effects" },
  { value: "tables", words: "All figures", key: "figures" },
  { value: "probes", words: "Probes", key: "probes" },
] as const;
type Face = (typeof FACES)[number]["value"];
const FACE_NAMES = FACES.map((f) => f.value);

/** An argument: the claim, its evidence, its doubts, the decision. */
export function VerdictStation() {
  const { id, document } = useJob();
  const { save } = useSaving();
  const bench = useWorkbench();
  const [load, setLoad] = useInAddress<string>("runs", "");
  const [profile, setProfile] = useInAddress<string>("profile", "");
  const [level, setLevel] = useState<number | null>(null);
  const [reference, setReference] = useInAddress<string>("told", "");
  const [share, setShare] = useState(0.5);
  const [beside, setBeside] = useState<Beside[]>([]);
  const [follows, setFollows] = useState(() => !chosenHere.has(id));
  const settings = {
    load: (load || null) as "both" | null,
    profile: profile || null,
    level_dba: level,
    reference: document.layouts?.some((x) => x.id === reference) ? reference : null,
    chosen: follows ? null : bench.layoutId, // nothing named: the one that the verdict itself would choose
    cpu_share: share,
  };
  const asked = useVerdict(id, document, settings, beside, save === "saved");
  const v = asked.data;
  const measured = [...new Set(v?.figures.map((f) => f.layout))];
  const nothing = !v || (measured.length < 2 && v.loads.length < 2);
  useOpenOn(id, nothing ? null : v.chosen, () => setFollows(false));
  if (!v) return <p className="p-6">{asked.error ? asked.error.message : "Comparing …"}</p>;
  if (nothing) return <NothingYet measured={measured} numbers={v.checked.length} />;
  return (
    <Station
      v={v}
      fault={asked.error?.message ?? ""}
      bar={
        <>
          {v.loads.length > 1 && (
            <Segments
              label="Load"
              value={v.load}
              choices={v.loads.map((l) => ({ value: l.load, words: said(LOADS, l.load) }))}
              onChange={setLoad}
            />
          )}
          <Select
            compact
            label="Told from"
            value={v.reference}
            choices={measured
              .filter((m) => document.layouts?.some((x) => x.id === m))
              .map((m) => ({ value: m, words: `compared with ${m}` }))}
            onChange={setReference}
          />
        </>
      }
      face={(face, onFigure) =>
        ({
          argument: <Argument v={v} onFigure={onFigure} />,
          side: <SideBySide v={v} beside={beside} onBeside={setBeside} />,
          effects: <Effects v={v} level={level} onLevel={setLevel} />,
          tables: <Tables v={v} share={share} onShare={setShare} />,
          probes: <Probes v={v} />,
        })[face]
      }
      aside={
        <>
          <WhatCounts v={v} profile={profile || null} onProfile={(p) => setProfile(p ?? "")} />
          <HowSure v={v} />
          <Doubts v={v} />
          <Freeze v={v} settings={settings} settled={!asked.isPlaceholderData && save === "saved"} />
          <Records />
        </>
      }
    />
  );
}

const chosenHere = new Set<number>();

/** A verdict opens on the layout it argues for by itself until a person chooses one here; the other stations keep theirs. */
function useOpenOn(job: number, layout: string | null, onChosen: () => void) {
  const { layoutId, lend, lent } = useWorkbench();
  const atFirst = useRef(layoutId);
  const given = useRef(false);
  useEffect(() => {
    if (given.current ? lent === null : layoutId !== atFirst.current) {
      chosenHere.add(job);
      onChosen();
    }
    if (layout === null || layout === lent || chosenHere.has(job)) return;
    given.current = true;
    lend(layout); // anew where other weights, or another load, would choose another
  }, [job, layout, layoutId, lend, lent, onChosen]);
  useEffect(
    () => () => {
      given.current = false;
      lend(null);
    },
    [lend],
  );
}

type StationProps = {
  v: Verdict;
  fault: string;
  bar: ReactNode;
  face: (face: Face, onFigure: (layout: string, channel: string) => void) => ReactNode;
  aside: ReactNode;
};

function Station({ v, fault, bar, face, aside }: StationProps) {
  const [shown, setShown] = useInAddress<Face>("face", "argument", FACE_NAMES);
  const [figure, setFigure] = useState<[string, string] | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const top = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.focus({ preventScroll: true }), []);
  useKeys([
    ...(["argument", "side", "effects", "tables", "probes"] as const).map((name, i) => ({
      key: "acefp"[i] ?? "",
      words: FACES[i]?.key ?? "",
      letter: true,
      place: "verdict",
      run: () => setShown(name),
    })),
    { key: "Escape", words: "close", run: () => setFigure(null) },
  ]);
  const open = (layout: string, channel: string) => {
    setFigure([layout, channel]);
    top.current?.scrollTo({ top: 0 });
  };
  return (
    <div
      ref={box}
      tabIndex={-1}
      data-keys="verdict"
      style={{ outline: "none" }}
      className="flex h-full max-lg:h-auto max-lg:flex-col"
    >
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="no-print flex flex-wrap items-center gap-3 border-b hairline px-5 py-1.5">
          <Segments label="Face of the verdict" value={shown} choices={[...FACES]} onChange={setShown} />
          <span className="ml-auto flex items-center gap-3">{bar}</span>
        </div>
        <div ref={top} className="flex min-h-0 flex-1 flex-col gap-5 overflow-y-auto p-5">
          {fault && (
            <p role="alert" className="text-small text-error">
              {fault}
            </p>
          )}
          {figure && <BudgetPanel v={v} layout={figure[0]} channel={figure[1]} onClose={() => setFigure(null)} />}
          {shown !== "argument" && <TraitsLine v={v} />}
          {face(shown, open)}
          <NextLine />
        </div>
      </div>
      <aside
        className="flex w-[310px] shrink-0 flex-col gap-5 overflow-y-auto border-l border-base-content bg-paper p-4 max-lg:w-full max-lg:border-t max-lg:border-l-0"
        aria-label="Decision"
      >
        {aside}
      </aside>
    </div>
  );
}

function NothingYet({ measured, numbers }: { measured: string[]; numbers: number }) {
  const { id } = useJob();
  return (
    <div className="p-10">
      <Empty title="Nothing to compare yet">
        <p>
          A verdict needs runs of at least two layouts.{" "}
          {measured.length === 1 ? `${measured[0]} has been run; run one more.` : "None has been run."}
        </p>
        {numbers > 0 && <p>This job repeats another: {numbers} check numbers of the original wait for your runs.</p>}
        <Link to="/jobs/$jobId/bench" params={{ jobId: String(id) }} className="btn btn-sm btn-primary">
          Go to Bench
        </Link>
      </Empty>
      <div className="mx-auto mt-6 flex max-w-md flex-col gap-6">
        <WhatMatters />
        <Records />
      </div>
    </div>
  );
}
