import type { LayoutDoc } from "@/shared/api/client";
import { DocNumber, DocSelect } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Select } from "@/shared/ui/bits";
import { type Change, TUBE_WAYS } from "./choices";

/** One radiator of one sealed cooler; more than that is a loop. */
export function RadiatorFields({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const radiators = document.parts?.radiators ?? [];
  const mounts = document.case.mounts ?? [];
  const place = layout.radiator;
  const path = ["layouts", (document.layouts ?? []).findIndex((x) => x.id === layout.id), "radiator"];
  const part = radiators.find((r) => r.id === (place?.radiator ?? radiators[0]?.id));
  if (!radiators.length) return <p className="text-[13px] text-warning">A sealed cooler needs a radiator: add one in Parts.</p>;
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
      <fieldset className="flex flex-col gap-0.5">
        <legend className="text-[12.5px] text-faint">stands on mounts</legend>
        <div className="flex flex-wrap gap-2">
          {mounts.map((m) => (
            <label key={m.id} className="flex items-center gap-1 text-[13px]">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={place?.mounts.includes(m.id) ?? false}
                onChange={(e) => {
                  const now = place?.mounts ?? [];
                  const same = now.filter((id) => id !== m.id && mounts.find((o) => o.id === id)?.face === m.face);
                  if (part) put(part.id, e.target.checked ? [...same, m.id] : now.filter((id) => id !== m.id));
                }}
              />
              {m.id.toUpperCase()}
            </label>
          ))}
        </div>
      </fieldset>
      {place && (
        <>
          <DocNumber label="Gap to its fans" path={[...path, "gap_mm"]} kind="length" low={0} high={60} fallback={0} />
          <DocSelect label="Tubes leave it" path={[...path, "tubes"]} fallback="rear" choices={TUBE_WAYS} />
        </>
      )}
    </>
  );
}
