import { Link } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import type { Finding } from "@/shared/api/client";
import { useAir, useForecast } from "@/shared/api/hooks";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { neighbour, Plan } from "@/shared/cutaway/geometry";
import type { Thing } from "@/shared/cutaway/Touch";
import { useInAddress } from "@/shared/job/address";
import { changeFan, fansAt, flip, layerOf, layoutOf, moveFan, putFan, speedBy, takeOut, usualWay } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { missingParts, useWorkbench } from "@/shared/job/workbench";
import { useKeys } from "@/shared/keys/keys";
import { Empty } from "@/shared/ui/bits";
import { num } from "@/shared/words/lists";
import { usual } from "@/shared/words/words";
import { AccountPanel, type Figure } from "./AccountPanel";
import { AirPanel } from "./AirPanel";
import { ConditionsBar } from "./ConditionsBar";
import { CurvesPanel } from "./CurvesPanel";
import { FindingsPanel } from "./FindingsPanel";
import { FitPanel, type MarkedLine } from "./FitPanel";
import { ForecastPanel } from "./ForecastPanel";
import { FoundPanel } from "./FoundPanel";
import { FindQuestion } from "./find/FindQuestion";
import { FindView } from "./find/FindView";
import { LaterPanel } from "./LaterPanel";
import { LayoutHead } from "./LayoutHead";
import { LeadsPanel } from "./LeadsPanel";
import { LearnedPanel } from "./LearnedPanel";
import { LoopPanel } from "./LoopPanel";
import { MountTitle, MountTray } from "./MountTray";
import { DRY, Questions, TAUGHT, VIEWS, type View } from "./Questions";
import { QuietPanel } from "./QuietPanel";
import { ThingBar, ThingTray, thingWords } from "./ThingTray";
import { TimePanel } from "./TimePanel";
import { TradePanel } from "./TradePanel";
import { VoicesPanel } from "./VoicesPanel";
import { WorthPanel } from "./WorthPanel";

const NONE: Finding[] = [];

/** What happens if: the cutaway, the forecast, the findings. */
export function LayoutsStation() {
  const { document } = useJob();
  const { layoutId } = useWorkbench();
  const layout = layoutOf(document, layoutId);
  const lacks = missingParts(document);
  if (!layout)
    return <Nothing title="No layout yet" words="Press N, or use new in the rack at the left, to draw the first one." />;
  if (!document.case.mounts?.length)
    return (
      <Nothing
        title="The case has no mounts yet"
        words="Say in Survey where fans can go; then they can be put here."
        station="survey"
      />
    );
  if (lacks.length)
    return (
      <Nothing
        title={`Still needed: ${lacks.join(", ")}`}
        words="Take them from the tray in Parts, or type their sheets in."
        station="parts"
      />
    );
  return <Work />;
}

function Nothing({ title, words, station }: { title: string; words: string; station?: "survey" | "parts" }) {
  const { id } = useJob();
  return (
    <div className="p-10">
      <Empty title={title}>
        <p>{words}</p>
        {station && (
          <Link to={`/jobs/$jobId/${station}`} params={{ jobId: String(id) }} className="btn btn-sm btn-primary">
            {station === "parts" ? "Go to Parts" : "Go to Survey"}
          </Link>
        )}
      </Empty>
    </div>
  );
}

function Work() {
  const { document, edit, id } = useJob();
  const bench = useWorkbench();
  const { layoutId, reference, conditions } = bench;
  const layout = layoutOf(document, layoutId);
  const [mount, setMount] = useState<string | null>(null);
  const [thing, setThing] = useState<Thing | null>(null);
  const [moving, setMoving] = useState<{ mount: string; layer: string } | null>(null);
  const [marked, setMarked] = useState<string | null>(null);
  const [measured, setMeasured] = useState<MarkedLine | null>(null);
  const [layer, setLayer] = useState<"outer" | "inner">("outer");
  const [view, setView] = useInAddress<View>("view", "settled", VIEWS);
  const [why, setWhy] = useState<Figure | null>(null);
  const [space, setSpace] = useState("up_front");
  const air = useAir({ document, layout: layoutId, conditions }, view === "air" ? space : null);
  const against = reference === layoutId ? null : reference;
  const answer = useForecast(document, [layoutId], conditions, against, false);
  // Findings weigh every fan turned and taken out: they follow the forecast, so that a flip shows at once.
  const advice = useForecast(
    document,
    [layoutId],
    conditions,
    against,
    true,
    bench.asTaught && (answer.isError || (answer.isSuccess && !answer.isPlaceholderData)),
  );
  const forecast = answer.data?.forecast?.layouts.find((x) => x.id === layoutId);
  const found = advice.data?.findings.layouts.find((x) => x.id === layoutId)?.findings;
  const findings = found ?? NONE;
  // Not known yet is not none: an answer of before the last change, or of another layout, says nothing of this one.
  const fresh = found !== undefined && !advice.isPlaceholderData && !answer.isPlaceholderData;
  const findingsState = advice.error ? "failed" : fresh ? "known" : found ? "old" : "working";

  const mounts = document.case.mounts ?? [];
  const chosen = mounts.some((m) => m.id === mount) ? mount : null;
  const spot = mounts.find((m) => m.id === chosen);
  const fans = layout && chosen ? fansAt(layout, chosen) : [];
  const fan = fans.find((f) => layerOf(f) === layer) ?? fans[0];
  const name = chosen?.toUpperCase();

  const reach = (id: string | null) => {
    setMount(id);
    setThing(null);
  };
  const letGo = () => reach(null);
  const choose = (id: string) => {
    if (moving && id !== moving.mount) {
      edit(`move the fan from ${moving.mount.toUpperCase()} to ${id.toUpperCase()}`, (d) =>
        moveFan(d, layoutId, moving.mount, moving.layer, id),
      );
      setMoving(null);
    }
    reach(id);
  };
  const take = useCallback((next: Thing | null) => {
    setThing(next);
    if (next) setMount(null);
  }, []);
  const hands = useMemo(() => ({ thing, onThing: take }), [thing, take]);
  const walk = (way: "left" | "right" | "up" | "down") => {
    const next = neighbour(new Plan(document.case), mounts, chosen, way);
    if (next) reach(next);
  };
  const onFan = (label: string, change: Parameters<typeof changeFan>[4]) =>
    chosen && fan && edit(`${label} ${name}`, (d) => changeFan(d, layoutId, chosen, layerOf(fan), change));
  const pace = (step: number) => {
    if (!chosen || !fan) return;
    const layer = layerOf(fan);
    const present =
      forecast?.fans.find((f) => f.mount === chosen && f.layer === layer)?.speed_pct ?? usual("layouts.*.fans.*.speed_pct");
    const group = layout?.groups?.find((g) => g.id === fan.group);
    edit(group ? `speed of group ${group.name || group.id}` : `speed at ${name}`, (d) =>
      speedBy(d, layoutId, chosen, layer, step, present),
    );
  };
  const put = () => {
    const fits = document.parts?.fans?.find((f) => spot?.sizes_mm.includes(f.size_mm));
    if (spot && fits && !fan)
      edit(`put a fan at ${name}`, (d) => putFan(d, layoutId, spot.id, fits.id, usualWay(spot.face), false));
  };
  useKeys([
    { key: "ArrowLeft", words: "walk", letter: true, run: () => walk("left") },
    { key: "ArrowRight", words: "walk", letter: true, run: () => walk("right") },
    { key: "ArrowUp", words: "walk", letter: true, run: () => walk("up") },
    { key: "ArrowDown", words: "walk", letter: true, run: () => walk("down") },
    { key: "f", words: "flip", letter: true, run: () => onFan("flip", flip) },
    { key: "+", words: "faster", letter: true, run: () => pace(5) },
    { key: "=", words: "faster", letter: true, run: () => pace(5) },
    { key: "-", words: "slower", letter: true, run: () => pace(-5) },
    { key: "p", words: "put", letter: true, run: put },
    { key: "m", words: "move", letter: true, run: () => chosen && fan && setMoving({ mount: chosen, layer: layerOf(fan) }) },
    { key: "Enter", words: "put it here", letter: true, run: () => chosen && moving && choose(chosen) },
    {
      key: "Delete",
      words: "take out",
      letter: true,
      run: () => chosen && fan && edit(`take the fan out of ${name}`, (d) => takeOut(d, layoutId, chosen, layerOf(fan))),
    },
    { key: "Escape", words: "let go", run: () => (moving ? setMoving(null) : letGo()) },
  ]);

  if (!layout) return null;
  return (
    <div className="flex h-full max-lg:h-auto max-lg:flex-col">
      {view === "find" && <FindView onMade={() => setView("settled")} />}
      <div className={`flex min-w-0 flex-1 flex-col ${view === "find" ? "hidden" : ""}`}>
        <LayoutHead layout={layout} />
        <div className="min-h-0 flex-1 px-3 max-lg:min-h-[440px]">
          <Cutaway
            doc={document}
            layout={layout}
            forecast={forecast}
            findings={findings}
            chosen={chosen}
            marked={marked ?? moving?.mount ?? null}
            measured={view === "fit" ? measured : null}
            onChoose={choose}
            grabFocus
            hands={hands}
            busy={answer.isFetching}
            zones={view === "air"}
            smoke={view === "air" ? air.data?.tracer?.concentration : undefined}
            onSpace={view === "air" ? setSpace : undefined}
            title={`Case seen through the window side, layout ${layoutId}`}
          />
        </div>
        <div className="flex h-52 shrink-0 flex-col gap-2 overflow-y-auto border-t border-base-content bg-paper px-4 py-2 max-lg:h-auto">
          <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1">
            {!thing && spot ? (
              <MountTitle mount={spot} />
            ) : (
              <strong className="text-body">{thing ? thingWords(thing) : "Nothing chosen"}</strong>
            )}
            <ThingBar thing={thing} onThing={take} />
          </div>
          {thing ? (
            <ThingTray layout={layout} thing={thing} />
          ) : (
            <MountTray
              layout={layout}
              mount={spot}
              forecast={forecast}
              moving={moving !== null}
              onMove={(l) => chosen && setMoving({ mount: chosen, layer: l })}
              onLayer={setLayer}
            />
          )}
        </div>
      </div>
      <aside
        className="flex w-[326px] shrink-0 max-lg:w-full max-lg:border-t max-lg:border-l-0 flex-col gap-4 overflow-y-auto border-l border-base-content bg-paper p-4"
        aria-label="Forecast and findings"
        data-answered={answer.isFetching || advice.isFetching || !advice.data ? "no" : "yes"}
      >
        <Questions view={view} onView={setView} />
        {!DRY.includes(view) && <ConditionsBar taught={TAUGHT.includes(view) && conditions.load !== "own"} />}
        {view === "time" && <TimePanel layout={layout} />}
        {view === "fit" && (
          <FitPanel
            layout={layout}
            onMark={(line) => {
              setMarked(line?.mount ?? null);
              setMeasured(line?.code === "stack_depth" || line?.code === "memory_to_top" ? line : null);
            }}
          />
        )}
        {view === "learned" && <LearnedPanel />}
        {view === "find" && <FindQuestion />}
        {view === "worth" && <WorthPanel layout={layout} />}
        {view === "quiet" && <QuietPanel layout={layout} />}
        {view === "quiet" && <VoicesPanel layout={layout} onMark={setMarked} />}
        {view === "quiet" && <CurvesPanel key={layout.id} layout={layout} />}
        {view === "quiet" && <TradePanel layout={layout} />}
        {view === "leads" && <LeadsPanel layout={layout} />}
        {view === "loop" && <LoopPanel layout={layout} />}
        {view === "found" && <FoundPanel layout={layout} onMark={setMarked} />}
        {view === "later" && <LaterPanel layout={layout} />}
        {view === "air" && <AirPanel forecast={forecast} air={air.data} error={air.error} space={space} onSpace={setSpace} />}
        {view !== "settled" || why ? null : answer.error ? (
          <p role="alert" className="rounded-md border border-error p-3 text-small">
            {findings?.some((f) => f.may_accept === false) ? (
              <>
                No forecast until what is named below is put right in{" "}
                <Link to="/jobs/$jobId/survey" params={{ jobId: String(id) }} className="underline">
                  Survey
                </Link>
                .
              </>
            ) : (
              <>No forecast: {answer.error.message}</>
            )}
          </p>
        ) : (
          <ForecastPanel
            forecast={forecast}
            layout={layout}
            stale={answer.isPlaceholderData}
            leastApart={num(answer.data?.forecast?.least_apart_k)}
            learned={answer.data?.forecast?.learned ?? null}
            onWhy={setWhy}
          />
        )}
        {view === "settled" && why && <AccountPanel figure={why} layoutId={layoutId} onClose={() => setWhy(null)} />}
        {view === "settled" && !why && (
          <FindingsPanel findings={findings} state={findingsState} onMark={setMarked} layoutId={layoutId} />
        )}
      </aside>
    </div>
  );
}
