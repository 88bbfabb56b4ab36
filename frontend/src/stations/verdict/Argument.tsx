import type { Verdict } from "@/shared/api/hooks";
import { Figure } from "@/shared/charts/Figure";
import { Scatter } from "@/shared/charts/Scatter";
import { Waterfall } from "@/shared/charts/Waterfall";
import { useJob } from "@/shared/job/store";
import { Words } from "@/shared/ui/sentence";
import { useUnits } from "@/shared/units/units";
import { channelWords, unitKind } from "@/shared/words/words";
import { Evidence } from "./Evidence";
import { figureOf, powerOf, WORDS } from "./words";

/** The claim, what it rests on, and the two drawings that carry it. */
export function Argument({ v, onFigure }: { v: Verdict; onFigure: (layout: string, channel: string) => void }) {
  return (
    <>
      <Claim v={v} />
      <Evidence v={v} onFigure={onFigure} />
      <div className="grid grid-cols-2 gap-6 max-xl:grid-cols-1">
        <Frontier v={v} />
        <Way v={v} channel="cpu_package_c" />
      </div>
    </>
  );
}

const QUIET = new Set(["scope", "confidence", "unsure", "same", "held"]);

function Claim({ v }: { v: Verdict }) {
  if (!v.claim) return null;
  return (
    <header className="flex flex-col gap-1.5" data-claim={v.claim.layout} data-sure={v.claim.sure}>
      <h1 className="mb-1 text-figure leading-tight">
        <Words parts={v.claim.head} />
      </h1>
      {v.claim.sentences.map((s) => (
        <p
          key={`${s.code}${String(s.parts[0])}`}
          className={`max-w-[78ch] ${QUIET.has(s.code) ? "text-small text-faint" : "text-body"}`}
          data-sentence={s.code}
        >
          <Words parts={s.parts} />
        </p>
      ))}
    </header>
  );
}

/** Coolest for its sound: layouts by level and rise; those no other beats in both are joined. */
export function Frontier({ v }: { v: Verdict }) {
  const { document } = useJob();
  const units = useUnits();
  const names = v.placed.map((p) => p.layout);
  const spots = names.flatMap((name) => {
    const x = figureOf(v, name, "sound_dba");
    const y = figureOf(v, name, "cpu_package_c");
    const beaten = v.placed.find((p) => p.layout === name);
    return x && y && !y.at_limit
      ? [
          {
            name,
            x: x.value,
            y: y.value,
            xBand: x.band,
            yBand: y.band,
            kept: !beaten?.beaten_by && (beaten?.passed ?? true),
            chosen: name === v.chosen,
          },
        ]
      : [];
  });
  if (spots.length < 2) return null;
  const open = document.layouts?.find((x) => x.open_bench && figureOf(v, x.id, "cpu_package_c"));
  const bench = open ? figureOf(v, open.id, "cpu_package_c") : undefined;
  return (
    <Figure
      title="Coolest for its sound"
      remark="processor over room"
      name="frontier"
      table={{
        head: ["layout", "sound, dBA", "±", `processor, ${units.unit("difference")}`, "±", "not beaten"],
        rows: spots.map((s) => [
          s.name,
          s.x.toFixed(1),
          s.xBand.toFixed(1),
          units.text("difference", s.y, 1),
          units.text("difference", s.yBand, 1),
          v.frontier.includes(s.name) ? "yes" : "",
        ]),
      }}
    >
      <Scatter
        spots={spots}
        steps={v.frontier}
        zero={bench ? { at: bench.value, words: `${bench.layout}, open bench` } : null}
        x={{ words: "sound at the seat", kind: "level", limit: document.room?.sound_limit_dba }}
        y={{ words: "processor over room", kind: "difference" }}
      />
    </Figure>
  );
}

/** From the reference to the layout that is argued for, one step after another. */
export function Way({ v, channel }: { v: Verdict; channel: string }) {
  const units = useUnits();
  // A part at its limit is told by its power.
  const way = [channel, powerOf(channel)].map((c) => v.effects.ways.find((w) => w.channel === c)).find(Boolean);
  if (!way || way.steps.length === 0)
    return v.chosen === v.reference ? (
      <p className="text-small text-faint">
        The others are compared with {v.reference}. Choose another tag in the rack to see the way to it.
      </p>
    ) : null;
  const end = way.steps.at(-1)?.end ?? "";
  const kind = unitKind(way.channel) === "power" ? "power" : "difference";
  const bundles = way.steps.filter((s) => s.changes.length > 1).length;
  return (
    <Figure
      title={`From ${v.reference} to ${end}, ${bundles === way.steps.length && bundles === 1 ? "all at once" : "one step at a time"}`}
      remark={
        bundles
          ? `${bundles} step${bundles === 1 ? "" : "s"} of several changes: plan a ladder to split ${bundles === 1 ? "it" : "them"}`
          : `${channelWords(way.channel)}${kind === "power" ? ", as its temperature stood at its limit" : " over room"}`
      }
      name="way"
      table={{
        head: ["from", "to", "what was done", `difference, ${units.unit(kind)}`, "±", "word"],
        rows: way.steps.map((s) => [
          s.start,
          s.end,
          s.changes.join("; "),
          units.signed(kind, s.difference_k, 1),
          units.text(kind, s.expanded_k, 1),
          WORDS[s.word],
        ]),
      }}
    >
      <Waterfall
        start={v.reference}
        end={end}
        startValue={way.start_value}
        endValue={way.end_value}
        kind={kind}
        more={kind === "power" ? "more power" : "warmer"}
        bars={way.steps.map((s) => ({
          from: s.start,
          to: s.end,
          by: s.difference_k,
          band: s.expanded_k,
          shown: s.word === "better" || s.word === "worse",
          words: s.changes.length > 2 ? `${s.changes.length} changes` : s.changes.join(", "),
        }))}
      />
    </Figure>
  );
}
