import type { Run } from "@/shared/api/client";
import { pointChannels } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, unitKind } from "@/shared/words/words";
import { swing } from "@/stations/bench/swing";

const STATISTICS: Record<string, string> = { tail_max: "by its protocol", core_mean: "mean of cores" };

const minutes = (seconds: number | null | undefined) => (typeof seconds === "number" ? (seconds / 60).toFixed(0) : "–");

/** Large figures over room, each with its soak bar: settled, or how long still. */
export function RunFigures({ run }: { run: Run }) {
  const units = useUnits();
  const { document } = useJob();
  const points = pointChannels(document);
  const rows = run.analysis.channels.filter(
    (c) =>
      (c.settled !== null && !c.name.startsWith("cpu_core_")) ||
      (c.flags.includes("held") && !c.name.startsWith("cpu_core_")) ||
      ["sound_dba", "score", "fps", "job_s"].includes(c.name) ||
      c.name.endsWith("_power_w") ||
      points.has(c.name) ||
      (c.flags.includes("by_hand") && c.name !== "room_c"),
  );
  const cores = run.analysis.channels.filter((c) => /^cpu_core_\d+_c$/.test(c.name));
  const stated = new Map(run.by_protocol.map((f) => [f.channel, f]));
  return (
    <>
      <table className="w-full max-sm:block" aria-label="Figures of the run">
        <tbody className="max-sm:block">
          {rows.map((c) => {
            const rise = c.rise_k !== null && units.scale === "over";
            const value = rise
              ? units.text("difference", c.rise_k)
              : c.name.endsWith("_c")
                ? units.text("temperature", c.mean)
                : units.text(unitKind(c.name), c.mean, c.mean >= 1000 ? 0 : 1);
            const unit = rise
              ? units.unit("difference")
              : c.name.endsWith("_c")
                ? units.unit("temperature")
                : units.unit(unitKind(c.name));
            const error = 2 * (c.rise_standard_error ?? c.standard_error);
            const loaded = c.settled !== null;
            return (
              <tr
                key={c.name}
                className="border-b hairline max-sm:grid max-sm:grid-cols-[minmax(0,1fr)_auto] max-sm:gap-x-2 max-sm:py-1"
                data-channel={c.name}
                data-rise={c.rise_k ?? ""}
              >
                <th scope="row" className="wide w-40 py-1.5 text-left text-lead">
                  {points.get(c.name) ?? channelWords(c.name)}
                </th>
                <td className="px-3 max-sm:order-3 max-sm:col-span-2 max-sm:px-0">
                  {loaded ? (
                    <Soak channel={c} />
                  ) : (
                    <span className="text-small text-faint">
                      {c.flags.includes("held")
                        ? `at its limit for ${minutes(c.held_s)} of ${minutes(run.duration_s)} min, whatever the layout: its power tells`
                        : c.flags.includes("by_hand")
                          ? `read by hand, ${c.readings === 1 ? "once" : `${c.readings} times`}`
                          : c.name === "sound_dba"
                            ? levelWords(c)
                            : `mean of the window, largest ${units.text(unitKind(c.name), c.max, 1)}`}
                    </span>
                  )}
                </td>
                <td className="w-56 py-1 text-right font-mono max-sm:w-auto">
                  <span className="text-huge leading-none font-semibold">{value}</span> <span className="text-lead">{unit}</span>
                  <span className="ml-2 text-small text-faint">
                    {units.band(unitKind(c.name), error, error >= 100 ? 0 : 1)}
                    {loaded && (
                      <span className="block" data-largest={c.max}>
                        <End going={c.going} rise={rise} />
                        {stated.has(c.name) && (
                          <strong data-by-protocol={run.statistic}>
                            {STATISTICS[run.statistic]}{" "}
                            {rise
                              ? units.text("difference", stated.get(c.name)?.rise_k)
                              : units.text("temperature", stated.get(c.name)?.value)}
                            ,{" "}
                          </strong>
                        )}
                        largest {rise ? units.text("difference", c.max_rise_k) : units.text("temperature", c.max)}
                      </span>
                    )}
                  </span>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {cores.length > 1 && <Cores cores={cores} spread={num(run.analysis.core_spread_k)} />}
    </>
  );
}

/** Where a temperature that has not settled was going: the figure that the verdict goes by. */
function End({ going, rise }: { going: Run["analysis"]["channels"][number]["going"]; rise: boolean }) {
  const units = useUnits();
  if (!going) return null;
  const over = rise && typeof going.rise_k === "number";
  return (
    <strong className="block text-base-content" data-end={over ? going.rise_k : going.at_c}>
      going to {over ? units.text("difference", going.rise_k) : units.text("temperature", going.at_c)}{" "}
      {units.band("difference", going.band_k, 1)}
    </strong>
  );
}

/** Every core by itself: an average hides one that stands apart. */
function Cores({ cores, spread }: { cores: Run["analysis"]["channels"]; spread: number }) {
  const units = useUnits();
  return (
    <details className="text-small">
      <summary className="cursor-pointer">
        {cores.length} cores, {units.text("difference", spread)} {units.unit("difference")} apart
      </summary>
      <table className="mt-1 w-full max-w-md">
        <thead>
          <tr className="text-left text-faint">
            <th className="font-normal">core</th>
            <th className="text-right font-normal">mean of the window</th>
            <th className="text-right font-normal">largest in it</th>
            <th className="text-right font-normal">over room</th>
          </tr>
        </thead>
        <tbody>
          {cores.map((c) => (
            <tr key={c.name} className="border-t hairline" data-core={c.name}>
              <td>{channelWords(c.name)}</td>
              <td className="text-right font-mono">{units.text("temperature", c.mean)}</td>
              <td className="text-right font-mono">{units.text("temperature", c.max)}</td>
              <td className="text-right font-mono">{c.rise_k === null ? "" : units.text("difference", c.rise_k)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function Soak({ channel: c }: { channel: Run["analysis"]["channels"][number] }) {
  const units = useUnits();
  const settled = c.settled ?? false;
  const kind = c.name.endsWith("_c") ? "difference" : unitKind(c.name);
  const band = c.final_band !== null ? `, ends within ${units.band(kind, c.final_band, 1)} ${units.unit(kind)}` : "";
  const more = c.more && `, ${c.more}`;
  const words = `${settled ? `settled${band}` : `not settled${more}`}${swing(c, units)}`;
  return (
    <div className={`relative min-h-6 rounded-sm border border-base-content ${settled ? "bg-base-content text-base-100" : ""}`}>
      {!settled && (
        <div
          className="absolute inset-y-0 left-0 w-4/5"
          style={{
            backgroundImage:
              "repeating-linear-gradient(115deg, color-mix(in oklab, var(--color-base-content) 26%, transparent) 0 6px, transparent 6px 12px)",
          }}
        />
      )}
      <span className="relative px-2 text-small font-semibold">{words}</span>
      {!settled && c.why && (
        <span className="relative block px-2 pb-0.5 text-small">
          <Said text={c.why} />
        </span>
      )}
    </div>
  );
}

/** What is said of a level beside its mean: spread, what was passed, and the machine without the room. */
function levelWords(c: Run["analysis"]["channels"][number]): string {
  const known = (v: number | null | undefined): v is number => v !== null && v !== undefined;
  return [
    `±${c.sd.toFixed(1)} about the mean, largest ${c.max.toFixed(1)}`,
    known(c.l10_dba) &&
      known(c.l90_dba) &&
      `a tenth of the time over ${c.l10_dba.toFixed(1)}, nine tenths over ${c.l90_dba.toFixed(1)}`,
    known(c.above_background_db) && `${c.above_background_db.toFixed(1)} dB above the room alone`,
    known(c.alone_dba) && `machine alone ${c.alone_bound ? "at most " : ""}${c.alone_dba.toFixed(1)} dBA`,
  ]
    .filter(Boolean)
    .join("; ");
}
