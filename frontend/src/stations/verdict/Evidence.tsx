import type { LayoutFigure } from "@/shared/api/client";
import { useRuns } from "@/shared/api/hooks";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { channelWords } from "@/shared/ui/channels";
import { Traits } from "@/shared/ui/traits";
import { useUnits } from "@/shared/units/units";

/** Measured figures of every layout side by side with their bands; kept in the rack's order, never ranked. */
export function Evidence({ figures, chosen }: { figures: LayoutFigure[]; chosen: string }) {
  const { id, document } = useJob();
  const { choose } = useWorkbench();
  const runs = useRuns(id);
  const traitsOf = (layout: string) => [
    ...new Set((runs.data ?? []).filter((r) => r.layout === layout && r.state === "valid").flatMap((r) => r.traits)),
  ];
  const channels = [...new Set(figures.map((f) => f.channel))].filter((c) => c.endsWith("_c") || c === "sound_dba").slice(0, 4);
  const rows = (document.layouts ?? []).filter((x) => figures.some((f) => f.layout === x.id));
  return (
    <table className="w-full table-fixed" aria-label="Measured figures">
      <thead>
        <tr className="text-left text-[13px] text-faint">
          <th className="w-44 font-normal">layout</th>
          {channels.map((c) => (
            <th key={c} className="font-normal">
              {channelWords(c)}
              {c.endsWith("_c") ? " over room" : ", dBA"}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((x) => (
          <tr
            key={x.id}
            className={`cursor-pointer border-b hairline ${x.id === chosen ? "outline-2 outline-base-content" : ""}`}
            onClick={() => choose(x.id)}
          >
            <th scope="row" className="py-2 pl-2 text-left font-normal">
              <span className="wide mr-2 text-[17px]">{x.id}</span>
              <span className="text-[13px]">{layoutOf(document, x.id)?.name}</span>
              <Traits traits={traitsOf(x.id)} />
              {x.picture && <img src={x.picture} alt={`${x.id} as built`} className="mt-1 h-10 rounded border hairline" />}
            </th>
            {channels.map((c) => (
              <td key={c} className="pr-6">
                <Dot
                  all={figures.filter((f) => f.channel === c)}
                  own={figures.find((f) => f.channel === c && f.layout === x.id)}
                />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Dot({ all, own }: { all: LayoutFigure[]; own: LayoutFigure | undefined }) {
  const units = useUnits();
  if (!own) return <span className="text-[13px] text-faint">not logged</span>;
  const low = Math.min(...all.map((f) => f.value - f.band));
  const high = Math.max(...all.map((f) => f.value + f.band));
  const at = (v: number) => ((v - low) / Math.max(high - low, 1e-6)) * 92 + 4;
  const heat = own.channel.endsWith("_c");
  const kind = heat ? "difference" : "level";
  return (
    <div data-figure={`${own.layout} ${own.channel}`} data-value={own.value}>
      <div
        className="relative h-4 font-mono text-[13.5px] font-semibold"
        style={{ paddingLeft: `${Math.max(at(own.value) - 14, 0)}%` }}
      >
        {units.text(kind, own.value, 1)}
        {!own.settled && <span className="ml-1 text-[12px] font-normal text-warning">not settled</span>}
      </div>
      <svg
        viewBox="0 0 100 10"
        preserveAspectRatio="none"
        className="h-3 w-full"
        role="img"
        aria-label={`${units.text(kind, own.value, 1)} ± ${units.text(kind, own.band, 1)}, ${own.runs} runs`}
      >
        <line x1="0" x2="100" y1="5" y2="5" stroke="currentColor" strokeOpacity="0.25" />
        <rect
          x={at(own.value - own.band)}
          width={at(own.value + own.band) - at(own.value - own.band)}
          y="2"
          height="6"
          fill="var(--color-accent)"
          opacity="0.28"
        />
        <rect x={at(own.value) - 0.8} width="1.600" y="0" height="10" fill="var(--color-accent)" />
      </svg>
    </div>
  );
}
