import { useDrift } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Head } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { channelWords } from "@/shared/words/words";

/** How the control moved between its first and its last run, and the others without that drift. */
export function ControlDrift() {
  const { id } = useJob();
  const units = useUnits();
  const found = useDrift(id);
  const rows = found.data ?? [];
  if (!rows.length) return null;
  const signed = (v: number) => `${v >= 0 ? "+" : "−"}${units.text("difference", Math.abs(v))}`;
  return (
    <section className="flex flex-col gap-2" aria-label="Drift of the control">
      <Head remark={`control ${rows[0]?.control}`}>Did the evening drift?</Head>
      {rows.map((d) => (
        <div key={d.channel} className="text-body" data-drift={d.channel}>
          <p>
            The control's {channelWords(d.channel)} moved by{" "}
            <strong className="font-mono">
              {signed(d.drift_k)} {units.unit("difference")}
            </strong>{" "}
            over room between its first and its last run:{" "}
            {d.shown
              ? "more than scatter explains, so the verdict takes it away."
              : "no more than scatter explains, so the verdict leaves figures as they are."}
          </p>
          {d.lines.length > 0 && (
            <p className="text-small text-faint">
              Against it:{" "}
              {d.lines.map((l) => `${l.name} ${signed(l.apart_k)}, without the drift ${signed(l.corrected_k)}`).join("; ")}{" "}
              {units.unit("difference")}.
            </p>
          )}
        </div>
      ))}
    </section>
  );
}
