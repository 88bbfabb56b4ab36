import { useProbeAdvice } from "@/shared/api/hooks";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head } from "@/shared/ui/bits";

/** Numbered points with their probes: where each hangs, which are critical, how to place it; made to be printed. */
export function SensorMap() {
  const { document } = useJob();
  const { layoutId } = useWorkbench();
  const points = document.points ?? [];
  const advice = useProbeAdvice(document, layoutId);
  const zonesOf = (point: string) =>
    advice.data?.find((a) => a.point === point)?.zones?.map((id) => document.zones?.find((z) => z.id === id)?.name || id);
  if (!points.length)
    return (
      <p className="no-print text-small text-faint">
        Probes: name points in Survey, and each run's reading there is kept under its name. Nothing is named yet.
      </p>
    );
  return (
    <section className="flex flex-col gap-2" aria-label="Sensor map">
      <Head
        remark={
          <span className="no-print">
            <Button small onClick={() => print()}>
              Print the map
            </Button>
          </span>
        }
      >
        Sensor map
      </Head>
      <div className="grid gap-4 xl:grid-cols-2">
        <div className="h-[380px]">
          <Cutaway small zones doc={document} layout={layoutOf(document, layoutId)} title="Where the probes hang" />
        </div>
        <table className="w-full self-start text-small">
          <thead>
            <tr className="text-left text-faint">
              <th className="pr-3 font-normal">probe</th>
              <th className="pr-3 font-normal">point</th>
              <th className="pr-3 font-normal">x, y, z, mm</th>
              <th className="font-normal">how to place it</th>
            </tr>
          </thead>
          <tbody>
            {points.map((p) => (
              <tr key={p.id} className="border-t hairline align-top" data-point-row={p.id}>
                <td className="py-1 pr-3 font-mono font-semibold">{p.sensor ?? "—"}</td>
                <td className="py-1 pr-3">
                  {p.name || p.id}
                  {p.critical ? <strong> (critical)</strong> : ""}
                  {(zonesOf(p.id) ?? []).length > 0 && <div className="text-fine text-faint">in {zonesOf(p.id)?.join(", ")}</div>}
                </td>
                <td className="py-1 pr-3 font-mono text-fine whitespace-nowrap">
                  {p.at_mm.x}, {p.at_mm.y}, {p.at_mm.z}
                </td>
                <td className="py-1">{advice.data?.find((a) => a.point === p.id)?.words ?? ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
