import type { Verdict } from "@/shared/api/hooks";
import { layoutOf } from "@/shared/job/edits";
import { useHeat } from "@/shared/job/heat";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Term } from "@/shared/ui/Term";
import { Traits } from "@/shared/ui/traits";
import { channelWords } from "@/shared/words/words";
import { useTraitsOf } from "./traits";
import { figureOf, leading, SIGN, saidOf, WORDS } from "./words";

const DRAWN = 2;

/** Measured figures of every layout with their bands, in the rack's order and never ranked; a click opens a figure's budget. */
export function Evidence({ v, onFigure }: { v: Verdict; onFigure: (layout: string, channel: string) => void }) {
  const { document } = useJob();
  const { choose } = useWorkbench();
  const heat = useHeat();
  const traitsOf = useTraitsOf();
  const names = [...new Set(v.figures.map((f) => f.layout))];
  // A channel that few layouts have stays in the table of all figures.
  const channels = leading(v)
    .filter((c) => names.filter((n) => figureOf(v, n, c)).length * 2 > names.length)
    .slice(0, 5);
  const drawn = channels.filter((c) => c.endsWith("_c")).slice(0, DRAWN);
  const plain = channels.filter((c) => !drawn.includes(c));
  return (
    <>
      <div className="max-sm:overflow-x-auto">
        <table className="w-full max-sm:min-w-[680px]" aria-label="Measured figures">
          <thead>
            <tr className="text-left text-small text-faint">
              <th className="w-48 min-w-32 pr-4 font-normal">layout</th>
              {[...drawn, ...plain].map((c) => (
                <th key={c} className="font-normal">
                  {channelWords(c)}
                  {heat.basis(c) && (
                    <>
                      {" "}
                      <Term t="rise">{heat.basis(c).trim()}</Term>
                    </>
                  )}
                  {heat.unitAfter(c)}
                </th>
              ))}
              <th className="pl-3 font-normal">cost</th>
              <th className="pl-3 font-normal">work</th>
            </tr>
          </thead>
          <tbody>
            {names.map((name) => {
              const x = layoutOf(document, name);
              const others = v.layouts.find((l) => l.layout === name)?.other_parts ?? [];
              const placed = v.placed.find((p) => p.layout === name);
              const facts = v.layouts.find((l) => l.layout === name);
              const failed = placed?.limits.filter((l) => !l.passed) ?? [];
              return (
                <tr
                  key={name}
                  data-row={name}
                  className={`border-b hairline align-top ${x ? "cursor-pointer" : ""} ${name === v.chosen ? "outline-2 outline-base-content" : ""}`}
                  onClick={() => x && choose(name)}
                >
                  <th scope="row" className="py-1.5 pr-4 pl-2 text-left font-normal [overflow-wrap:anywhere]">
                    <span className="wide mr-2 text-lead">{name}</span>
                    <span className="text-small">{x?.name}</span>
                    {!x && <span className="block text-fine text-faint">another job: context only</span>}
                    {others.length > 0 && (
                      <span className="block text-fine" data-other-parts={name}>
                        with {others.join(", ")}
                      </span>
                    )}
                    {failed.length > 0 && (
                      <span className="block text-fine text-error" data-failed={name}>
                        ✕ {failed.map((l) => l.what).join("; ")}
                      </span>
                    )}
                    {placed?.beaten_by && placed.passed && (
                      <span className="block text-fine text-faint">nothing measured favours it over {placed.beaten_by}</span>
                    )}
                    <Traits traits={traitsOf(name)} />
                  </th>
                  {drawn.map((c) => (
                    <td key={c} className="w-[22%] py-1.5 pr-4">
                      <Dot v={v} layout={name} channel={c} onOpen={() => onFigure(name, c)} />
                    </td>
                  ))}
                  {plain.map((c) => (
                    <td key={c} className="py-1.5 pr-2">
                      <Plain v={v} layout={name} channel={c} onOpen={() => onFigure(name, c)} />
                    </td>
                  ))}
                  <td className="py-1.5 pl-3 font-mono text-small">{facts ? Math.round(facts.cost) : ""}</td>
                  <td className="py-1.5 pr-2 pl-3 font-mono text-small whitespace-nowrap">
                    {facts ? `${Math.round(facts.labour_min)} min` : ""}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <p className="text-fine text-faint">
        Words against {v.chosen}: ▲ worse, ▼ better, = <Term t="same">no difference</Term>, ?{" "}
        <Term t="cannot_tell">cannot tell</Term>.
      </p>
    </>
  );
}

type CellProps = { v: Verdict; layout: string; channel: string; onOpen: () => void };

const WHY = { no_room: "no room temperature", not_logged: "not logged" };

/** Why there is no figure: the part was at its limit, nobody read the room, or it was not logged. */
function NoFigure({ v, layout, channel }: Omit<CellProps, "onOpen">) {
  const why = v.missing.find((m) => m.layout === layout && m.channel === channel)?.why ?? "not_logged";
  if (why !== "at_limit") return <span className="text-small text-faint">{WHY[why]}</span>;
  return (
    <span className="text-small text-warning" data-at-limit={`${layout} ${channel}`}>
      <span className="hatched mr-2 inline-block h-2.5 w-12" aria-hidden="true" />
      at its limit
    </span>
  );
}

/** The word against the layout that is argued for, below its figure. */
function Against({ v, layout, channel }: Omit<CellProps, "onOpen">) {
  if (layout === v.chosen || !v.chosen) return null;
  if (figureOf(v, layout, channel)?.at_limit || figureOf(v, v.chosen, channel)?.at_limit) return null; // no word is said of it
  const said = saidOf(v.pairs, layout, v.chosen, channel);
  if (!said) return null;
  return (
    <span className="text-fine text-faint" data-against={`${layout} ${channel}`} data-said={said.word}>
      {said.pair.context ? (
        "context only"
      ) : (
        <>
          <span aria-hidden="true">{SIGN[said.word]}</span> {WORDS[said.word]}
        </>
      )}
    </span>
  );
}

function Plain({ v, layout, channel, onOpen }: CellProps) {
  const heat = useHeat();
  const own = figureOf(v, layout, channel);
  if (!own) return <NoFigure v={v} layout={layout} channel={channel} />;
  const [value, band] = heat.banded(channel, own.value, own.band);
  return (
    <div data-figure={`${layout} ${channel}`} data-value={own.value} className="whitespace-nowrap">
      <Open onOpen={onOpen}>
        {value} <span className="font-normal text-faint">{band}</span>
      </Open>
      <div>
        <Against v={v} layout={layout} channel={channel} />
      </div>
    </div>
  );
}

function Open({ onOpen, children }: { onOpen: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      title="Where this figure comes from"
      className="origin-measured cursor-pointer font-mono text-small"
      onClick={(e) => {
        e.stopPropagation();
        onOpen();
      }}
    >
      {children}
    </button>
  );
}

function Dot({ v, layout, channel, onOpen }: CellProps) {
  const heat = useHeat();
  const own = figureOf(v, layout, channel);
  if (!own) return <NoFigure v={v} layout={layout} channel={channel} />;
  const all = v.figures.filter((f) => f.channel === channel);
  const low = Math.min(...all.map((f) => f.value - f.band));
  const high = Math.max(...all.map((f) => f.value + f.band));
  const at = (value: number) => ((value - low) / Math.max(high - low, 1e-6)) * 94 + 3;
  const [value, band] = heat.banded(channel, own.value, own.band);
  return (
    <div data-figure={`${layout} ${channel}`} data-value={own.value}>
      <div className="flex items-baseline justify-between gap-2 whitespace-nowrap">
        <span>
          <Open onOpen={onOpen}>
            {value} <span className="font-normal text-faint">{band}</span>
          </Open>
        </span>
        {own.at_limit && <span className="text-fine text-warning">at its limit</span>}
        <Against v={v} layout={layout} channel={channel} />
      </div>
      <svg
        viewBox="0 0 100 8"
        preserveAspectRatio="none"
        className={`h-2.5 w-full ${own.at_limit ? "hatched" : ""}`}
        aria-hidden="true"
      >
        <line x1="0" x2="100" y1="4" y2="4" stroke="currentColor" strokeOpacity="0.25" />
        <rect
          x={at(own.value - own.band)}
          width={at(own.value + own.band) - at(own.value - own.band)}
          y="1.2"
          height="5.600"
          fill="var(--color-accent)"
          opacity="0.3"
        />
        <rect x={at(own.value) - 0.7} width="1.400" y="0" height="8" fill="var(--color-accent)" />
      </svg>
      <span className="block text-fine text-faint">
        {typeof own.at_w === "number" && <span className="mr-2">at {Math.round(own.at_w)} W</span>}
        {own.how && <span className="text-warning">{own.how}</span>}
      </span>
    </div>
  );
}
