import type { Schemas } from "@/shared/api/client";
import { Head } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { channelWords } from "@/shared/words/words";
import { useDifference } from "./difference";

export function DesignView({ design }: { design: Schemas["DesignOut"] }) {
  const difference = useDifference();
  const units = useUnits();
  const partsOf = (changes: readonly string[]) =>
    changes.length === 1 ? (design.parts?.[design.names.indexOf(changes.join())] ?? []).join("; ") : "";
  const largest = Math.max(...design.effects.map((x) => Math.abs(x.effect_k) + x.expanded_k), 0.1);
  return (
    <section className="flex flex-col gap-1" data-design={design.layouts.join("")}>
      <Head remark={`${design.layouts.join(", ")}; ${channelWords(design.channel)}`}>
        All combinations of {design.names.length} changes
      </Head>
      <table className="text-small">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">effect of</th>
            <th className="text-right font-normal">size</th>
            <th className="w-[34%] pl-4 font-normal">with its 95 % band</th>
            <th className="pl-4 font-normal">shown</th>
          </tr>
        </thead>
        <tbody>
          {design.effects.map((x) => (
            <tr key={x.changes.join("|")} className="border-t hairline" data-effect={x.changes.join(" × ")}>
              <td className="py-1">
                {x.changes.length > 1 ? <>together, beyond their sum: {x.changes.join(" × ")}</> : x.changes[0]}
                <span className="block text-fine text-faint">{partsOf(x.changes)}</span>
              </td>
              <td className="py-1 text-right font-mono whitespace-nowrap">{difference(x.effect_k, x.expanded_k)}</td>
              <td className="pl-4">
                <Interval value={x.effect_k} band={x.expanded_k} largest={largest} />
              </td>
              <td className="pl-4">{x.shown ? "yes" : "no"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-fine text-faint">
        Measured: {design.layouts.map((name, i) => `${name} ${units.text("difference", design.values[i], 1)}`).join(", ")}{" "}
        {units.unit("difference")}. An effect is the mean with the change less the mean without it.
      </p>
    </section>
  );
}

function Interval({ value, band, largest }: { value: number; band: number; largest: number }) {
  const at = (x: number) => 50 + (x / largest) * 48;
  return (
    <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-3 w-full" aria-hidden="true">
      <line x1="50" x2="50" y1="0" y2="8" stroke="currentColor" strokeOpacity="0.5" strokeWidth="0.6" />
      <rect
        x={at(value - band)}
        width={at(value + band) - at(value - band)}
        y="2"
        height="4"
        fill="var(--color-accent)"
        opacity="0.35"
      />
      <rect x={at(value) - 0.6} width="1.200" y="0.500" height="7" fill="var(--color-accent)" />
    </svg>
  );
}
