import { useState } from "react";
import type { LayoutDoc } from "@/shared/api/client";
import { useQuietSpeeds } from "@/shared/api/hooks";
import { releasedBy, setSpeeds } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Segments } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { USUAL, within } from "@/shared/words/words";

/** Speeds for a level of sound: one for all case fans or one per side, past speeds that hum. */
export function QuietPanel({ layout }: { layout: LayoutDoc }) {
  const { document, edit } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const [target, setTarget] = useState<number>(document.room?.sound_limit_dba ?? USUAL.quiet_dba);
  const [way, setWay] = useState<"together" | "sides">("sides");
  const [from, setFrom] = useState<number | null>(null);
  const [to, setTo] = useState<number | null>(null);
  const solve = useQuietSpeeds({ document, layout: layout.id, conditions });
  const ask = () =>
    solve.mutate({
      target_dba: target,
      together: way === "together",
      avoid_rpm: from !== null && to !== null ? [[Math.min(from, to), Math.max(from, to)]] : [],
    });
  const found = solve.data;
  const use = () =>
    found && edit(`speeds for ${target.toFixed(0)} dBA in ${layout.id}`, (d) => setSpeeds(d, layout.id, found.speeds.speeds_pct));
  const released = found ? releasedBy(layout, found.speeds.speeds_pct) : [];
  const rpm = (mount: string, pct: number) => {
    const id = layout.fans?.find((f) => f.mount === mount)?.fan;
    return (num(document.parts?.fans?.find((f) => f.id === id)?.speed_max_rpm) * pct) / 100;
  };
  return (
    <section className="flex flex-col gap-3" data-quiet={found ? (found.speeds.reached ? "reached" : "unreached") : "waiting"}>
      <Head remark={found?.learned ? "case fans only, as learned" : "case fans only"}>Speeds for a level</Head>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="Level where you sit"
          kind="level"
          digits={1}
          value={target}
          {...within("ask.quiet_dba")}
          onCommit={(v) => setTarget(v ?? USUAL.quiet_dba)}
        />
        <Segments
          label="Which fans share a speed"
          value={way}
          onChange={setWay}
          choices={[
            { value: "sides", words: "each side its own" },
            { value: "together", words: "all alike" },
          ]}
        />
      </div>
      <fieldset className="flex flex-wrap gap-3">
        <legend className="text-fine text-faint">Stay out of speeds that hum</legend>
        <NumberField label="from" kind="speed" value={from} {...within("ask.rpm")} optional="none" onCommit={setFrom} />
        <NumberField label="to" kind="speed" value={to} {...within("ask.rpm")} optional="none" onCommit={setTo} />
      </fieldset>
      <div>
        <Button strong onClick={ask} disabled={solve.isPending || !layout.fans?.length}>
          {solve.isPending ? "Working it out …" : "Find the coolest speeds"}
        </Button>
      </div>
      {solve.error && <p role="alert">No answer: {solve.error.message}</p>}
      {found && (
        <div className="flex flex-col gap-2">
          {!found.speeds.reached && (
            <p className="text-small text-warning">
              {units.withUnit("level", target)} is not reached even with the case fans at rest; the rest of the machine is at{" "}
              {units.withUnit("level", found.speeds.level_dba, 1)}.
            </p>
          )}
          <dl className="grid grid-cols-[1fr_auto_auto] gap-x-4 gap-y-0.5">
            {Object.entries(found.groups).map(([group, mounts]) => {
              const first = mounts[0] ?? "";
              const pct = num(found.speeds.speeds_pct[first]);
              return (
                <GroupRow
                  key={group}
                  words={`${group === "all" ? "" : `${group}: `}${mounts.map((m) => m.toUpperCase()).join(", ")}`}
                  pct={pct}
                  rpm={rpm(first, pct)}
                />
              );
            })}
          </dl>
          <p className="text-small">
            <span className="origin-forecast">{units.withUnit("level", found.speeds.level_dba, 1)}</span>, processor{" "}
            <span className="origin-forecast">{units.withUnit("temperature", found.cpu_c, 0)}</span>
            {found.card_c !== null && found.card_c !== undefined && (
              <>
                , card <span className="origin-forecast">{units.withUnit("temperature", found.card_c, 0)}</span>
              </>
            )}
          </p>
          {found.speeds.reached && (
            <div>
              <Button onClick={use}>Set these speeds in {layout.id}</Button>
              {released.length > 0 && (
                <p className="mt-1 text-fine text-faint" data-releases={released.length}>
                  With it {released.join(", ")}.
                </p>
              )}
            </div>
          )}
        </div>
      )}
    </section>
  );
}

function GroupRow({ words, pct, rpm }: { words: string; pct: number; rpm: number }) {
  return (
    <>
      <dt>{words}</dt>
      <dd className="text-right font-mono">{pct.toFixed(0)} %</dd>
      <dd className="text-right font-mono text-faint">{pct > 0 ? `${rpm.toFixed(0)} rpm` : "stands still"}</dd>
    </>
  );
}
