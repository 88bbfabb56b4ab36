import { useState } from "react";
import { useFanAtWork } from "@/shared/api/hooks";
import { FanLine } from "@/shared/charts/FanLine";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { useUnits } from "@/shared/units/units";

type Props = { mount: string; layer: "outer" | "inner"; fan: string };

/** A fan's curve against what it works against in this place, and what the other fans at hand would move here. */
export function FanAtWork(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <div className={open ? "w-full" : ""}>
      <button type="button" className="cursor-pointer text-small underline" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "hide its curve" : "its curve here"}
      </button>
      {open && <Work {...props} />}
    </div>
  );
}

function Work({ mount, layer, fan }: Props) {
  const { document } = useJob();
  const { layoutId, conditions } = useWorkbench();
  const units = useUnits();
  const { data, error } = useFanAtWork({ document, layout: layoutId, conditions }, mount, layer);
  if (error) return <p className="text-small text-faint">{error.message}</p>;
  if (!data) return null;
  const { work } = data;
  const name = (id: string) => document.parts?.fans?.find((f) => f.id === id)?.name || id;
  return (
    <div className="mt-1 flex flex-wrap gap-4 text-small" data-work={mount} data-flow={work.flow_m3h}>
      <FanLine full={work.curve_full} now={work.curve_now} system={work.system} at={[work.flow_m3h, work.pressure_pa]} />
      <div className="min-w-48 flex-1 leading-snug">
        <p>
          It moves <strong>{units.withUnit("flow", work.flow_m3h)}</strong> against {units.withUnit("pressure", work.pressure_pa)}
          : {work.share_of_free_pct.toFixed(0)} % of what it would in free air.
        </p>
        {data.others.length > 1 && (
          <ul className="mt-1">
            {data.others.map((o) => (
              <li key={o.fan} className={o.fan === fan ? "font-semibold" : ""}>
                {name(o.fan)}: {units.withUnit("flow", o.flow_m3h)}
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
