import { useJob } from "@/shared/job/store";

type Props = { chosen: string[]; taken?: Set<string>; onChange: (mounts: string[]) => void };

/** The mounts that a radiator stands on, all of one face and in the order of the case. */
export function MountTicks({ chosen, taken, onChange }: Props) {
  const { document } = useJob();
  const mounts = document.case.mounts ?? [];
  const face = (id: string) => mounts.find((m) => m.id === id)?.face;
  const change = (id: string, on: boolean) => {
    const kept = chosen.filter((other) => other !== id && (!on || face(other) === face(id)));
    const next = new Set(on ? [...kept, id] : kept);
    onChange(mounts.map((m) => m.id).filter((m) => next.has(m)));
  };
  return (
    <fieldset className="flex flex-col gap-0.5">
      <legend className="text-fine text-faint">stands on mounts</legend>
      <div className="flex flex-wrap gap-2">
        {mounts.map((m) => (
          <label key={m.id} className="flex items-center gap-1 text-small">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={chosen.includes(m.id)}
              disabled={taken?.has(m.id)}
              onChange={(e) => change(m.id, e.target.checked)}
            />
            {m.id.toUpperCase()}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
