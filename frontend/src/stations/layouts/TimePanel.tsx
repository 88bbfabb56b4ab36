import { useMemo, useState } from "react";
import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useOverTime } from "@/shared/api/hooks";
import { Trace } from "@/shared/charts/Trace";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { FORECAST_CHANNELS, MISHAPS, SHAPES, said, USUAL, within } from "@/shared/words/words";

type Shape = (typeof SHAPES)[number]["value"];
type Mishap = (typeof MISHAPS)[number]["value"];
const CHANNELS = {
  cpu_k: FORECAST_CHANNELS.cpu,
  card_k: FORECAST_CHANNELS.card,
  coolant_k: FORECAST_CHANNELS.coolant,
  air_rear_k: FORECAST_CHANNELS.air_rear,
};
const EVERY_S = 30;
const NO_SHADE = null;

/** The run over time: how it warms, when it settles, and what a mishap does. */
export function TimePanel({ layout }: { layout: LayoutDoc }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const [shape, setShape] = useState<Shape>("step");
  const [minutes, setMinutes] = useState<number>(USUAL.time_minutes);
  const [mishap, setMishap] = useState<Mishap>("none");
  const [stopped, setStopped] = useState("");
  const sealed = document.parts?.coolers?.find((c) => c.id === (layout.cooler ?? document.base?.cooler))?.kind === "sealed";
  const fans = [...new Set((layout.fans ?? []).map((f) => f.mount))];
  const mount = fans.includes(stopped) ? stopped : (fans[0] ?? "");
  const kinds = MISHAPS.filter((m) => (m.value !== "fan_stops" || fans.length > 0) && (m.value !== "pump_slows" || sealed)).map(
    (m) => ({ ...m, words: units.said(m.words) }),
  );
  const kind = kinds.some((k) => k.value === mishap) ? mishap : "none";
  const events = useMemo(
    () =>
      kind === "none"
        ? []
        : [{ kind, minutes: minutes / 2, mount: kind === "fan_stops" ? mount : null, amount: kind === "pump_slows" ? 40 : 5 }],
    [kind, minutes, mount],
  );
  const time = { minutes, every_s: EVERY_S, profile: { shape }, events, warm: false } as Schemas["TimeIn"]["time"];
  const answer = useOverTime({ document, layout: layout.id, conditions }, time);
  const data = answer.data;
  const channels = useMemo(
    () =>
      (Object.keys(CHANNELS) as (keyof typeof CHANNELS)[])
        .filter((c) => data?.settles.some((s) => s.channel === c))
        .map((c) => ({ name: c, words: CHANNELS[c] })),
    [data],
  );
  const trace = useMemo(() => traceOf(data), [data]);
  const shown = useMemo(() => (c: number) => units.shown("temperature", c), [units]);
  const settles = data?.settles ?? [];
  return (
    <section data-time={data ? "ready" : "waiting"} className="flex flex-col gap-3">
      <Head remark="from cold, forecast">Over time</Head>
      <div className="flex flex-wrap gap-2">
        <Select label="Load over time" value={shape} choices={SHAPES} onChange={(v) => setShape(v as Shape)} wide />
        <Select label="What if" value={kind} choices={kinds} onChange={(v) => setMishap(v as Mishap)} wide />
        {kind === "fan_stops" && (
          <Select
            label="Which fan"
            value={mount}
            choices={fans.map((f) => ({ value: f, words: f.toUpperCase() }))}
            onChange={setStopped}
          />
        )}
        <NumberField
          label="Length, minutes"
          value={minutes}
          {...within("ask.minutes")}
          onCommit={(v) => setMinutes(v ?? USUAL.time_minutes)}
        />
      </div>
      {answer.error && <p role="alert">No run: {answer.error.message}</p>}
      <div className="h-56">
        {data && <Trace trace={trace} channels={channels} window={NO_SHADE} unit={units.unit("temperature")} shown={shown} />}
      </div>
      {data?.mishap && <What mishap={data.mishap} />}
      {kind === "none" && shape === "step" && settles.length > 0 && (
        <>
          <Head level={3} remark={units.said("drift under 0.2 K in 5 min")}>
            Settles after
          </Head>
          <dl className="grid grid-cols-[1fr_auto] gap-y-0.5">
            {settles.map((s) => (
              <SettleRow
                key={s.channel}
                words={CHANNELS[s.channel as keyof typeof CHANNELS] ?? s.channel}
                minutes={s.minutes ?? null}
                length={minutes}
              />
            ))}
          </dl>
          <p className="text-small" data-advice>
            {data?.advised_minutes
              ? `Let a run of this layout go on for ${data.advised_minutes} minutes or more: until all is settled, and some to average.`
              : "Not all of it settles in this time; make the run longer."}
          </p>
        </>
      )}
    </section>
  );
}

/** What a mishap did, in words and figures, and what would tell of it. */
function What({ mishap }: { mishap: NonNullable<Schemas["TimeAnswer"]["mishap"]> }) {
  const units = useUnits();
  return (
    <section className="flex flex-col gap-1.5 text-small" data-mishap={mishap.at_minutes}>
      <Head level={3} remark={`after ${mishap.at_minutes.toFixed(0)} min`}>
        Before and after
      </Head>
      <table>
        <tbody>
          {mishap.channels.map((c) => (
            <tr key={c.channel} data-change={c.channel}>
              <td>{said(FORECAST_CHANNELS, c.channel)}</td>
              <td className="text-right font-mono">
                {units.text("temperature", c.before_c, 0)} → {units.withUnit("temperature", c.after_c, 0)}
              </td>
              <td className="pl-3 text-right font-mono">
                {units.signed("difference", c.after_c - c.before_c, 1)} {units.unit("difference")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        {mishap.limit_minutes === null
          ? "Neither part has to give up power."
          : `After ${mishap.limit_minutes.toFixed(0)} min ${mishap.limited} sits at its limit and gives up power.`}
      </p>
      <p className="text-faint">{mishap.alarm}</p>
    </section>
  );
}

function SettleRow({ words, minutes, length }: { words: string; minutes: number | null; length: number }) {
  return (
    <>
      <dt>{words}</dt>
      <dd className="text-right font-mono">{minutes === null ? `over ${length} min` : `${minutes.toFixed(0)} min`}</dd>
    </>
  );
}

function traceOf(data: Schemas["TimeAnswer"] | undefined): Schemas["TraceOut"] {
  const rows = data?.rows ?? [];
  const columns: Record<string, (number | null)[]> = {
    cpu_k: rows.map((r) => r.cpu_c),
    card_k: rows.map((r) => r.card_c ?? null),
    coolant_k: rows.map((r) => r.coolant_c ?? null),
    air_rear_k: rows.map((r) => r.air_rear_c),
  };
  return {
    elapsed_s: rows.map((r) => r.minutes * 60),
    channels: Object.entries(columns).map(([name, values]) => ({ name, values })) as never,
  };
}
