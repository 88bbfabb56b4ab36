import { Fragment } from "react";
import type { LayoutForecast, Schemas } from "@/shared/api/client";
import { POINT } from "@/shared/api/hooks";
import { seenSpaces } from "@/shared/cutaway/geometry";
import { useJob } from "@/shared/job/store";
import { Head, Select } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { SPACE_COLUMNS, SPACE_ROWS, said } from "@/shared/words/words";

export const spaceWords = (id: string) => {
  const [row, column] = id.split("_");
  return `${said(SPACE_ROWS, row)}, ${said(SPACE_COLUMNS, column)}`;
};

type Props = {
  forecast: LayoutForecast | undefined;
  air: Schemas["AirAnswer"] | undefined;
  error: Error | null;
  space: string;
  onSpace: (space: string) => void;
};

/** Smoke let out in one space: where it goes. And how fresh the air is, and what is breathed again. */
export function AirPanel({ forecast, air, error, space, onSpace }: Props) {
  const units = useUnits();
  const { document } = useJob();
  const spaces = seenSpaces(forecast);
  const zoneName = (id: string) => document.zones?.find((z) => z.id === id)?.name || id;
  const picture = air?.picture;
  const gaps = Object.entries(picture?.through_gaps ?? {}).sort((a, b) => num(b[1]) - num(a[1]))[0];
  const percent = (share: number) => `${(100 * share).toFixed(0)} %`;
  return (
    <section className="flex flex-col gap-3" data-air={air?.tracer ? space : "waiting"}>
      <Head remark="made up, without a match">Smoke</Head>
      <p className="text-small">Click a part of the drawing, or choose one, and smoke comes out there.</p>
      <Select
        label="Smoke comes out"
        value={space}
        choices={[
          ...spaces.map((s) => ({ value: s.id, words: spaceWords(s.id) })),
          ...(document.points ?? []).map((p) => ({ value: `${POINT}${p.id}`, words: `at ${p.name || p.id}` })),
        ]}
        onChange={onSpace}
        wide
      />
      {error && <p role="alert">No answer: {error.message}</p>}
      {air?.tracer && (
        <>
          <p className="text-small" data-used={air.tracer.used_share}>
            {percent(air.tracer.used_share)} of it passes cooler, radiator or card first; {percent(1 - air.tracer.used_share)}{" "}
            leaves unused. It stays {air.tracer.stays_s.toFixed(1)} s on average
            {air.tracer.still_share > 0.005 && `; ${percent(air.tracer.still_share)} of it is where air stands still`}.
          </p>
          {Object.keys(air.tracer.taken_by).length > 0 && (
            <>
              <Head level={3}>Taken first by</Head>
              <dl className="grid grid-cols-[1fr_auto] gap-y-0.5" data-taken>
                {Object.entries(air.tracer.taken_by)
                  .sort((a, b) => b[1] - a[1])
                  .map(([name, share]) => (
                    <Line key={name} words={`the ${name}`} value={percent(share)} />
                  ))}
              </dl>
            </>
          )}
          <Head level={3}>It leaves</Head>
          <dl className="grid grid-cols-[1fr_auto] gap-y-0.5">
            {air.tracer.exits.slice(0, 6).map((exit) => (
              <Line key={exit.name} words={exitWords(exit.name)} value={percent(exit.share)} />
            ))}
          </dl>
        </>
      )}
      {forecast && (forecast.zones ?? []).length > 0 && (
        <>
          <Head level={3} remark="over room; air that passes">
            Zones
          </Head>
          <dl className="grid grid-cols-[1fr_auto_auto] gap-x-4 gap-y-0.5" data-zones="forecast">
            {(forecast.zones ?? []).map((z) => (
              <Fragment key={z.zone}>
                <dt>
                  {zoneName(z.zone)}
                  {z.warmest_k - z.coolest_k > 0.05 && (
                    <span className="block text-fine text-faint">
                      {units.text("difference", z.coolest_k, 1)} to {units.withUnit("difference", z.warmest_k, 1)} within it
                    </span>
                  )}
                </dt>
                <dd className="text-right font-mono">{units.withUnit("difference", z.rise_k, 1)}</dd>
                <dd className="text-right font-mono">{units.withUnit("flow", z.flow_m3h, 0)}</dd>
              </Fragment>
            ))}
          </dl>
        </>
      )}
      {picture && (
        <>
          <Head level={3} remark={`${picture.mean_age_s.toFixed(1)} s on average`}>
            How old and how fast the air is
          </Head>
          <dl className="grid grid-cols-[1fr_auto] gap-y-0.5">
            {spaces.map((s) => (
              <Line
                key={s.id}
                words={`${spaceWords(s.id)}${picture.dead.includes(s.id) ? " (stands still)" : ""}`}
                value={`${units.text("plain", picture.age_s[s.id], 1)} s, ${units.text("plain", picture.speed_m_s[s.id], 2)} m/s`}
              />
            ))}
          </dl>
          <Head level={3}>It comes in</Head>
          <dl className="grid grid-cols-[1fr_auto] gap-y-0.5" data-enters>
            <Line words="through fans" value={percent(num(picture.enters.fans))} />
            <Line words="through vents and empty mounts" value={percent(num(picture.enters.vents))} />
            <Line words="through gaps, unfiltered" value={percent(num(picture.enters.gaps))} />
          </dl>
          {gaps && num(gaps[1]) > 0.05 && (
            <p className="text-small">
              Most at <span className="lowercase">{spaceWords(gaps[0])}</span>: {percent(num(gaps[1]))} of the air there came
              through gaps.
            </p>
          )}
          <Head level={3}>Breathed again</Head>
          <dl className="grid grid-cols-[1fr_auto] gap-y-0.5">
            <Line words="of the cooler's air is its own" value={percent(picture.cooler_own_share)} />
            {picture.card_own_share !== null && picture.card_own_share !== undefined && (
              <Line words="of the card's air is its own" value={percent(picture.card_own_share)} />
            )}
          </dl>
        </>
      )}
    </section>
  );
}

function Line({ words, value }: { words: string; value: string }) {
  return (
    <>
      <dt>{words}</dt>
      <dd className="text-right font-mono">{value}</dd>
    </>
  );
}

const EXITS: Record<string, string> = {
  "leak:slot_covers": "past the slot covers",
  "card:bracket": "out of the card's bracket",
};
function exitWords(name: string): string {
  if (EXITS[name]) return EXITS[name];
  if (name.startsWith("leak:seam")) return `at a seam ${spaceWords(name.replace("leak:seam_", ""))}`;
  if (name.startsWith("vent:")) return `at a vent, ${name.split(":")[1]?.replace("_", " ") ?? ""}`;
  if (name.includes(":")) return name.replace(":", " ").replaceAll("_", " ");
  return `at ${name.toUpperCase()}`;
}
