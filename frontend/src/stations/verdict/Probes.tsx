import type { Verdict } from "@/shared/api/hooks";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { layoutOf } from "@/shared/job/edits";
import { pointChannels } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { Empty } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { channelWords } from "@/shared/words/words";
import { figureOf } from "./words";

/** Measured air on the cutaway at the named points, and every reading of air of the layout beside it. */
export function Probes({ v }: { v: Verdict }) {
  const { document } = useJob();
  const units = useUnits();
  const chosen = v.chosen ?? "";
  const named = pointChannels(document);
  const everywhere = v.figures.filter((f) => f.channel.startsWith("air_") || named.has(f.channel));
  const air = everywhere.filter((f) => f.layout === chosen);
  const others = [...new Set(everywhere.map((f) => f.layout))];
  const text = (rise: number, band: number) =>
    `${units.text("difference", rise, 1)} ${units.band("difference", band, 1)} ${units.unit("difference")}`;
  const points = (document.points ?? []).map((p) => {
    const own = figureOf(v, chosen, `air_${p.id}_c`) ?? (p.sensor ? figureOf(v, chosen, `air_${p.sensor}_c`) : undefined);
    return own ? { ...p, name: `${p.name || p.id} ${units.withUnit("difference", own.value, 1)}` } : p;
  });
  const zones = (v.zones ?? []).filter((z) => z.layout === chosen);
  const pointName = (id: string) => document.points?.find((p) => p.id === id)?.name || id;
  if (!air.length)
    return (
      <Empty title={`No probe was read with ${chosen}`}>
        {others.length > 0 && (
          <p>
            With {others.join(", ")} there was: choose {others.length > 1 ? "one of these tags" : "its tag"} in the rack.
          </p>
        )}
        <p>
          Hang a probe, name its point in Survey, and log it as air_…_c: its reading over room then stands in the drawing here.
        </p>
      </Empty>
    );
  const layout = layoutOf(document, chosen);
  return (
    <>
      <h1 className="text-figure">
        Measured air, {chosen} <span className="text-body font-normal">{layout?.name}</span>
      </h1>
      <div className="grid grid-cols-[minmax(0,1fr)_18rem] gap-5 max-lg:grid-cols-1">
        <div className="h-[500px]">
          <Cutaway small zones doc={{ ...document, points }} layout={layout} title={`Measured air of ${chosen}`} />
        </div>
        <table className="self-start text-small">
          <thead>
            <tr className="text-left text-faint">
              <th className="font-normal">point</th>
              <th className="text-right font-normal">over room</th>
            </tr>
          </thead>
          <tbody>
            {air.map((f) => (
              <tr key={f.channel} className="border-t hairline" data-probe={f.channel}>
                <td className="py-1">{named.get(f.channel) ?? channelWords(f.channel)}</td>
                <td className="py-1 text-right font-mono">{text(f.value, f.band)}</td>
              </tr>
            ))}
          </tbody>
          {zones.length > 0 && (
            <tbody>
              <tr className="text-left text-faint">
                <th className="pt-4 font-normal">zone, its probes together</th>
                <th className="pt-4 text-right font-normal">mean over room</th>
              </tr>
              {zones.map((z) => (
                <tr key={z.zone} className="border-t hairline" data-zone-read={z.zone}>
                  <td className="py-1">
                    {document.zones?.find((x) => x.id === z.zone)?.name || z.zone}
                    <div className="text-fine text-faint">
                      {z.points.length === 1
                        ? "one probe"
                        : `${z.points.length} probes, ${units.text("difference", z.coolest_k, 1)} to ${units.withUnit("difference", z.warmest_k, 1)}, warmest at ${pointName(z.warmest_at)}`}
                    </div>
                  </td>
                  <td className="py-1 text-right align-top font-mono">{text(z.mean_k, z.band_k)}</td>
                </tr>
              ))}
            </tbody>
          )}
        </table>
      </div>
    </>
  );
}
