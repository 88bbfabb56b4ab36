import type { LayoutDoc } from "@/shared/api/client";
import { DocNumber } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Select } from "@/shared/ui/bits";
import type { Change } from "./choices";
import { MountTicks } from "./MountTicks";
import { TubeSide } from "./TubeSide";

/** One radiator of one sealed cooler; more than that is a loop. */
export function RadiatorFields({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const radiators = document.parts?.radiators ?? [];
  const place = layout.radiator;
  const path = ["layouts", (document.layouts ?? []).findIndex((x) => x.id === layout.id), "radiator"];
  const part = radiators.find((r) => r.id === (place?.radiator ?? radiators[0]?.id));
  if (!radiators.length) return <p className="text-small text-warning">A sealed cooler needs a radiator: add one in Parts.</p>;
  const put = (radiator: string, chosen: string[]) =>
    change(`radiator of ${layout.id}`, (x) => {
      x.radiator = chosen.length ? { ...(x.radiator ?? {}), radiator, mounts: chosen } : null;
    });
  return (
    <>
      <Select
        label="Radiator"
        value={part?.id ?? ""}
        choices={radiators.map((r) => ({ value: r.id, words: r.name || r.id }))}
        onChange={(v) => put(v, place?.mounts ?? [])}
      />
      <MountTicks chosen={place?.mounts ?? []} onChange={(next) => part && put(part.id, next)} />
      {place && (
        <>
          <DocNumber label="Gap to its fans" path={[...path, "gap_mm"]} kind="length" />
          <TubeSide layout={layout} path={path} mounts={place.mounts} />
        </>
      )}
    </>
  );
}
