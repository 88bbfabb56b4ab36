import { useMemo, useState } from "react";
import type { JobDoc } from "@/shared/api/client";
import { type Drawn, type Find, type FoundLayout, goingOn, type SearchDoc, useFind } from "@/shared/api/propose";
import { Cloud, type Dot, type Mark } from "@/shared/charts/Cloud";
import { Figure } from "@/shared/charts/Figure";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { freeLayoutId } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Empty, Segments, Select, Working } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { measurements, num } from "@/shared/words/lists";

type Part = "cpu" | "card";
const FIRST = 5;
const PARTS = [
  { value: "cpu" as const, words: "processor" },
  { value: "card" as const, words: "card" },
];
const whole = (n: number) => n.toLocaleString("en");

/** What the search found: a map of all, and those that no other beats, the simplest of each kind first. */
export function FindView({ onMade }: { onMade: () => void }) {
  const { id } = useJob();
  const find = useFind(id);
  const found = find.data;
  return (
    <div className="flex min-w-0 flex-1 flex-col gap-3 overflow-y-auto p-4">
      {found?.result ? (
        <Result find={found} result={found.result} onMade={onMade} />
      ) : goingOn(found) ? (
        <Under find={found as Find} />
      ) : find.isPending ? (
        <Working />
      ) : (
        <Empty title="Which layout would be better?">
          <p>
            Say at the right what it must keep, and press the button: every way to put your fans is forecast, and those that no
            other beats are shown with what they bring and what they cost.
          </p>
        </Empty>
      )}
    </div>
  );
}

/** The first dots, while the rest is looked at. */
function Under({ find }: { find: Find }) {
  const dots = useMemo(() => dotsOf(find.early, "cpu", []), [find.early]);
  return (
    <>
      <h1 className="text-figure">Looking at every layout</h1>
      {dots.length ? (
        <div className="max-w-2xl">
          <Cloud dots={dots} front={[]} drawn={[]} y="processor" limitDba={find.question.max_dba ?? null} limitK={null} />
        </div>
      ) : (
        <Working words="The first ones are being forecast …" />
      )}
    </>
  );
}

function dotsOf(early: Find["early"], part: Part, kept: boolean[]): Dot[] {
  if (!early) return [];
  const rises = part === "cpu" ? early.cpu_dk : early.card_dk;
  return rises.map((y, i) => ({ x: num(early.level_ddb[i]) / 10, y: y / 10, kept: kept.length ? kept[i] === true : true }));
}

function Result({ find, result, onMade }: { find: Find; result: SearchDoc; onMade: () => void }) {
  const { document } = useJob();
  const { rackForecasts } = useWorkbench();
  const units = useUnits();
  const [part, setPart] = useState<Part>("cpu");
  const [empty, setEmpty] = useState("");
  const [chosen, setChosen] = useState<string | null>(null);
  const [all, setAll] = useState(false);
  const [most, setMost] = useState<Most>({ dba: null, k: null });
  const q = find.question;
  const rise = (x: FoundLayout | Drawn) => (part === "cpu" ? x.cpu_rise_k : (x.card_rise_k ?? x.cpu_rise_k)) + num(x.lost_k);
  const within = (level: number, k: number) => level <= (most.dba ?? level) && k <= (most.k ?? k);
  const frontier = result.frontier.filter(
    (x) => (!empty || !(x.layout.fans ?? []).some((f) => f.mount === empty)) && within(x.level_dba, rise(x)),
  );
  const leaders = frontier.filter((x) => x.simplest);
  const shown = all ? frontier : leaders.slice(0, FIRST);
  const dots = useMemo(() => brushed(result, part, empty, most), [result, part, empty, most]);
  const reach = useMemo(() => reachOf(result, part), [result, part]);
  const front: Mark[] = frontier.map((x) => ({
    name: x.layout.id,
    x: x.level_dba,
    y: rise(x),
    chosen: x.layout.id === chosen,
    letter: false,
  }));
  const underHeat: Mark[] = (result.drawn ?? []).map((x) => ({
    name: x.id,
    x: x.level_dba,
    y: rise(x),
    chosen: x.id === result.start.id,
    letter: true,
  }));
  const asTheyAre: Mark[] = (document.layouts ?? []).flatMap((x) => {
    const f = rackForecasts.get(x.id);
    const y = part === "cpu" ? f?.cpu.rise_k : f?.card?.rise_k;
    return f && y !== undefined ? [{ name: x.id, x: f.sound.level_dba, y, chosen: x.id === result.start.id, letter: true }] : [];
  });
  const limitC = part === "cpu" ? q.max_cpu_c : q.max_card_c;
  return (
    <>
      <header>
        <h1 className="text-figure">
          {result.frontier.length
            ? `${whole(result.distinct)} layouts looked at, ${result.frontier.filter((x) => x.simplest).length} kinds that no other beats`
            : `${whole(result.distinct)} layouts looked at, none keeps what was asked`}
        </h1>
        <p className="text-body text-faint">
          {result.exhaustive
            ? `These are all there are: listed and, apart from that, counted, ${whole(result.possible)} both times.`
            : `There are ${result.possible_exact ? "" : "up to "}${whole(result.possible)}, too many to look at each; up to ${num(result.gap_pct).toFixed(2)} % of them may still be better.`}{" "}
          {result.learned ? `As ${measurements(result.learned)} taught.` : "From the parts' sheets alone."}
          {q.scenario && ` With the heat of ${scenarioWords(document, q.scenario)}.`}
          {q.one_fan_may_stop && " Each keeps its limits with any one fan at rest."}
          {find.outdated ? " An older version of the engine found them: look again." : ""}
        </p>
      </header>
      {result.why_none && (
        <p role="alert" className="border-l-4 border-warning pl-2 text-body" data-none>
          {result.why_none.charAt(0).toUpperCase() + result.why_none.slice(1)}.
        </p>
      )}
      <div className="grid items-start gap-5 xl:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
        <div className="flex flex-col gap-2">
          <div className="flex flex-wrap items-center gap-3">
            <Segments label="Temperature of" value={part} choices={PARTS} onChange={setPart} />
            <Select
              compact
              label="Only layouts with nothing at"
              value={empty}
              empty="any mount in use"
              choices={(document.case.mounts ?? []).map((m) => ({ value: m.id, words: `nothing at ${m.id.toUpperCase()}` }))}
              onChange={setEmpty}
            />
          </div>
          <Figure
            name="layouts found"
            title="Every layout a dot"
            remark={`${whole(result.evaluated)} forecasts${result.dots?.thinned ? ", some drawn" : ""}`}
            table={{
              head: ["layout", "sound, dBA", "processor, K over room", "card, K over room", "what is done"],
              rows: frontier.map((x) => [
                x.layout.id,
                x.level_dba.toFixed(1),
                x.cpu_rise_k.toFixed(1),
                x.card_rise_k?.toFixed(1) ?? "",
                x.words.join("; "),
              ]),
            }}
          >
            <Cloud
              dots={dots}
              front={front}
              drawn={q.scenario ? underHeat : asTheyAre}
              y={part === "cpu" ? "processor" : "card"}
              limitDba={most.dba ?? q.max_dba ?? null}
              limitK={most.k ?? (limitC ? limitC - result.room_c : null)}
              onMark={setChosen}
            />
          </Figure>
          {reach && (
            <div className="grid grid-cols-2 gap-4">
              <Slide
                words="sound up to"
                said={units.withUnit("level", most.dba ?? reach.dba[1], 1)}
                reach={reach.dba}
                value={most.dba}
                onSlide={(dba) => setMost({ ...most, dba })}
              />
              <Slide
                words={`${part === "cpu" ? "processor" : "card"} up to`}
                said={units.withUnit("difference", most.k ?? reach.k[1], 0)}
                reach={reach.k}
                value={most.k}
                onSlide={(k) => setMost({ ...most, k })}
              />
            </div>
          )}
          <p className="text-fine text-faint">
            Ringed: what no other beats in heat, sound, price and work; the line joins the best in these two. Pale: beyond a
            limit. Letters: your layouts. Power that a part gives up at its own limit counts as heat.
          </p>
        </div>
        <div className="flex flex-col gap-3">
          {shown.map((x) => (
            <Card
              key={x.layout.id}
              x={x}
              start={result.start.id}
              chosen={x.layout.id === chosen}
              onChoose={setChosen}
              onMade={onMade}
            />
          ))}
          {result.frontier.length > 0 && frontier.length === 0 && (
            <p className="text-body">None of those found is within what the map is narrowed to.</p>
          )}
          {frontier.length > shown.length || all ? (
            <button
              type="button"
              className="cursor-pointer self-start text-small underline underline-offset-2"
              onClick={() => setAll(!all)}
            >
              {all
                ? "only the simplest of each kind"
                : result.unbeaten > result.frontier.length
                  ? `all ${frontier.length} shown of ${whole(result.unbeaten)} that no other beats: the most telling`
                  : `all ${frontier.length} that no other beats`}
            </button>
          ) : null}
          {result.frontier.length > 0 && (
            <p className="text-fine text-faint">
              A kind: layouts that the forecast cannot tell apart, led by the one with the least work. Now, {result.start.id}:{" "}
              {units.withUnit("difference", result.start.cpu_rise_k, 0)}
              {result.start.card_rise_k !== null && ` and ${units.withUnit("difference", result.start.card_rise_k, 0)}`} over
              room, {units.withUnit("level", result.start.level_dba)}.
            </p>
          )}
        </div>
      </div>
    </>
  );
}

/** The dots of layouts with nothing at a mount, where one is named; what lies beyond what is brushed away is pale. */
function brushed(result: SearchDoc, part: Part, empty: string, most: Most): Dot[] {
  const d = result.dots;
  if (!d) return [];
  const beyond = (dot: Dot) => (most.dba !== null && dot.x > most.dba) || (most.k !== null && dot.y > most.k);
  const all = dotsOf(d, part, d.kept).map((dot) => (beyond(dot) ? { ...dot, kept: false } : dot));
  const bit = empty ? d.names.indexOf(empty) : -1;
  return bit < 0 ? all : all.filter((_, i) => Math.floor(num(d.mounts[i]) / 2 ** bit) % 2 === 0);
}

type Most = { dba: number | null; k: number | null };
type Reach = readonly [number, number];

/** From where to where what was found goes, in level and rise; nothing where nothing was found. */
function reachOf(result: SearchDoc, part: Part): { dba: Reach; k: Reach } | null {
  const found = result.frontier;
  if (found.length < 2) return null;
  const rises = found.map((x) => (part === "cpu" ? x.cpu_rise_k : (x.card_rise_k ?? x.cpu_rise_k)));
  const ends = (v: number[], step: number): Reach => [
    Math.ceil(Math.min(...v) / step) * step,
    Math.ceil(Math.max(...v) / step) * step,
  ];
  return {
    dba: ends(
      found.map((x) => x.level_dba),
      0.5,
    ),
    k: ends(rises, 1),
  };
}

/** A limit that is slid along the map; at its far end it is none. */
function Slide(props: {
  words: string;
  said: string;
  reach: Reach;
  value: number | null;
  onSlide: (value: number | null) => void;
}) {
  const [low, high] = props.reach;
  return (
    <label className="flex flex-col gap-0.5 text-fine">
      <span className="flex justify-between gap-2">
        <span className="text-faint">{props.words}</span>
        <span className="font-mono">{props.said}</span>
      </span>
      <input
        type="range"
        className="range range-xs"
        min={low}
        max={high}
        step={high - low > 20 ? 1 : 0.5}
        value={props.value ?? high}
        onChange={(e) => props.onSlide(Number(e.target.value) >= high ? null : Number(e.target.value))}
      />
    </label>
  );
}

const scenarioWords = (document: JobDoc, id: string) => document.scenarios?.find((x) => x.id === id)?.name || id;

function Card(props: { x: FoundLayout; start: string; chosen: boolean; onChoose: (id: string) => void; onMade: () => void }) {
  const { x, start } = props;
  const { document, edit } = useJob();
  const { choose } = useWorkbench();
  const units = useUnits();
  const fresh = freeLayoutId(document);
  const bare = useMemo(() => ({ ...document, points: [], zones: [] }) as JobDoc, [document]);
  const { layout } = x;
  const words = x.words.length ? x.words.join("; ") : "as it stands";
  const make = () => {
    edit(`${fresh}: found`, (d) => {
      d.layouts = [
        ...(d.layouts ?? []),
        { ...structuredClone(layout), id: fresh, name: words.slice(0, 80), parent: start, accepted: [] },
      ];
    });
    choose(fresh);
    props.onMade();
  };
  const k = (v: number) => units.withUnit("difference", v, 0);
  return (
    <article
      className={`flex gap-3 rounded-box border bg-paper p-2 max-sm:flex-col ${props.chosen ? "border-2 border-base-content" : "hairline"}`}
      data-found={x.layout.id}
      onMouseEnter={() => props.onChoose(x.layout.id)}
    >
      <div className="h-32 w-36 shrink-0">
        <Cutaway small doc={bare} layout={layout} title={words} />
      </div>
      <div className="flex min-w-0 flex-1 flex-col gap-1">
        <p className="font-mono text-body font-semibold">
          <span className="origin-forecast">
            {k(x.cpu_rise_k)}
            {x.card_rise_k !== null && `, card ${k(x.card_rise_k)}`}, {units.withUnit("level", x.level_dba)}
          </span>
          <span className="block text-fine font-normal text-faint">
            forecast, processor {units.band("difference", x.cpu_band_k)}
            {x.card_band_k !== null && `, card ${units.band("difference", x.card_band_k)}`} {units.unit("difference")} over room
          </span>
        </p>
        <p className="text-small leading-snug">
          <Said text={words} />
        </p>
        <p className="text-fine text-faint">
          Against {start}: <Said text={x.why.join("; ")} />.
        </p>
        <p className="mt-auto flex flex-wrap items-center justify-between gap-2 text-fine">
          <span>
            {x.minutes.toFixed(0)} min of work
            {x.price === null ? ", price not known" : x.price > 0 ? `, fans for ${x.price.toFixed(2)}` : ""}
          </span>
          <Button small strong onClick={make} title="It joins the rack; the others stay as they are">
            make it {fresh}
          </Button>
        </p>
      </div>
    </article>
  );
}
