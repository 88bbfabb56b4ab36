import type { LayoutDoc } from "@/shared/api/client";
import { useVoices } from "@/shared/api/hooks";
import { Figure } from "@/shared/charts/Figure";
import { Shares } from "@/shared/charts/Shares";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Working } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { SOUND_SIDES, saidOfChoice } from "@/shared/words/words";

const SAME_DB = 0.05;
const named = (v: { name: string; count: number }) => (v.count > 1 ? `${v.name}, ${v.count} of them` : v.name);

/** Who is heard of a layout: shares of the sound, which add up where levels do not. */
export function VoicesPanel({ layout, onMark }: { layout: LayoutDoc; onMark: (mount: string | null) => void }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const { data, error } = useVoices({ document, layout: layout.id, conditions });
  if (error) return <p role="alert">No answer: {error.message}</p>;
  if (!data) return <Working words="Every source is being listened to …" />;
  const loudest = data.voices.find((v) => v.mount);
  const own = data.level_dba - data.sum_dba;
  return (
    <section className="flex flex-col gap-2" data-voices={data.voices.length}>
      <Figure
        title="Who is heard"
        remark={`${units.withUnit("level", data.sum_dba, 1)} together${data.learned ? ", as learned" : ""}`}
        name={`voices-${layout.id}`}
        table={{
          head: ["source", "level, dBA", "share of the sound, %", "quieter without it, dB"],
          rows: data.voices.map((v) => [named(v), v.level_dba.toFixed(1), v.share_pct.toFixed(1), v.without_db.toFixed(1)]),
        }}
      >
        <Shares
          words={`shares of the sound of ${layout.id}`}
          onMark={onMark}
          rows={data.voices.map((v) => ({
            name: named(v),
            share: v.share_pct,
            words: `${v.level_dba.toFixed(1)} dBA, ${v.share_pct.toFixed(0)} %`,
            marks: v.mount,
          }))}
        />
      </Figure>
      <table className="w-full text-fine" aria-label="From elsewhere">
        <thead className="text-left text-faint">
          <tr>
            <th className="font-normal">from elsewhere</th>
            <th className="text-right font-normal">level, {units.unit("level")}</th>
            <th className="text-right font-normal">than here, dB</th>
          </tr>
        </thead>
        <tbody>
          {data.elsewhere.map((e) => (
            <tr key={`${e.side} ${e.distance_m}`} className="border-t hairline" data-elsewhere={e.side}>
              <td className="py-0.5">
                {saidOfChoice(SOUND_SIDES, e.side)}, {e.distance_m.toFixed(1)} m
              </td>
              <td className="text-right font-mono">{units.text("level", e.level_dba, 1)}</td>
              <td className="text-right font-mono">{units.signed("level", e.more_db, 1)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-fine text-faint">
        Levels do not add up, shares of the sound do.
        {loudest && ` Without the ${loudest.name} it would be ${units.withUnit("level", data.sum_dba - loudest.without_db, 1)}.`}
        {Math.abs(own) > SAME_DB &&
          ` Beside these the layout as a whole, and the meter that heard it, add ${units.signed("level", own, 1)} dB.`}
      </p>
    </section>
  );
}
