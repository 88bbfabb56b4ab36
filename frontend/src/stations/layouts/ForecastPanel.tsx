import { Link } from "@tanstack/react-router";
import type { LayoutDoc, LayoutForecast } from "@/shared/api/client";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head } from "@/shared/ui/bits";
import { Term } from "@/shared/ui/Term";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { measurements, num } from "@/shared/words/lists";
import { FORECAST_LOADS, saidOfChoice, usual } from "@/shared/words/words";
import type { Figure } from "./AccountPanel";

const MOST_K = 90;

/** The forecast of the layout at hand: difference to the reference first, absolute figure after, bands always. */
export function ForecastPanel({
  forecast,
  layout,
  stale,
  leastApart,
  learned,
  onWhy,
}: {
  forecast: LayoutForecast | undefined;
  layout: LayoutDoc;
  stale: boolean;
  leastApart: number;
  /** How many runs and sweeps the figures were learned from; null where they rest on sheets alone. */
  learned: number | null;
  onWhy: (figure: Figure) => void;
}) {
  const { document, id } = useJob();
  const bench = useWorkbench();
  const units = useUnits();
  if (!forecast) return <p className="text-faint">Working the forecast out …</p>;
  const d = forecast.differences;
  const limits = {
    cpu:
      document.parts?.cpus?.find((c) => c.id === (layout.cpu ?? document.base?.cpu))?.tj_max_c ?? usual("parts.cpus.*.tj_max_c"),
    card:
      document.parts?.cards?.find((c) => c.id === (layout.card ?? document.base?.card))?.t_limit_c ??
      usual("parts.cards.*.t_limit_c"),
  };
  const room = forecast.cpu.temperature_c - forecast.cpu.rise_k;
  return (
    <section className={stale ? "opacity-80" : ""} data-forecast={forecast.id}>
      <Head
        remark={
          <>
            {saidOfChoice(FORECAST_LOADS, bench.conditions.load)},{" "}
            {learned === null ? <Term t="settled" /> : <Learned runs={learned} />}
          </>
        }
      >
        {d ? `Forecast against ${d.against}` : "Forecast"}
      </Head>
      <Row
        name="Processor"
        room={room}
        onWhy={() => onWhy("cpu")}
        rise={forecast.cpu.rise_k}
        band={forecast.cpu.band_k}
        limit={limits.cpu - room}
        diff={d?.cpu_k}
        diffBand={d?.cpu_band_k}
      />
      {forecast.card && (
        <Row
          name="Card"
          room={room}
          onWhy={() => onWhy("card")}
          rise={forecast.card.rise_k}
          band={forecast.card.band_k}
          limit={limits.card - room}
          diff={d?.card_k}
          diffBand={d?.card_band_k}
        />
      )}
      {forecast.coolant && (
        <Row
          name="Coolant"
          room={room}
          onWhy={() => onWhy("coolant")}
          rise={forecast.coolant.rise_k}
          band={forecast.coolant.band_k}
          limit={60 - room}
        />
      )}
      {forecast.card_coolant && (
        <Row
          name="Card's coolant"
          onWhy={() => onWhy("card")}
          room={room}
          rise={forecast.card_coolant.rise_k}
          band={forecast.card_coolant.band_k}
          limit={60 - room}
        />
      )}
      <Row
        name="Air at rear"
        room={room}
        onWhy={() => onWhy("rear")}
        rise={forecast.air.rear_c - room}
        diff={d?.rear_k}
        diffBand={d?.rear_band_k}
      />
      <Sound
        forecast={forecast}
        onWhy={() => onWhy("sound")}
        limit={document.room?.sound_limit_dba ?? null}
        floor={document.room?.background_dba ?? usual("room.background_dba")}
      />
      {forecast.caveats.map((c) => (
        <p key={c.code} className="mt-1 text-fine text-warning">
          <Said text={c.text} />
        </p>
      ))}
      {bench.reference === layout.id ? (
        <p className="mt-2 text-fine text-faint">{layout.id} is the reference. Choose another tag to see its difference first.</p>
      ) : (
        <button
          type="button"
          className="mt-1 cursor-pointer text-fine text-faint underline underline-offset-2"
          onClick={() => bench.setReference(layout.id)}
        >
          make {layout.id} the reference
        </button>
      )}
      {bench.conditions.room === "worst" && (
        <p className="mt-1 text-fine text-faint">
          In a room of {units.withUnit("temperature", room, 0)}. Over room little changes, but speed curves run faster there and
          parts meet their limits sooner.
        </p>
      )}
      <Balance forecast={forecast} layout={layout} onWhy={() => onWhy("balance")} />
      <p className="mt-2 text-fine text-faint">
        <Term t="band">Bands</Term> are 95 %, model error included;{" "}
        {learned === null
          ? `${units.withUnit("difference", leastApart)} or less apart is too close to call.`
          : "what lies within its band is too close to call."}{" "}
        Measure it in{" "}
        <Link to="/jobs/$jobId/bench" params={{ jobId: String(id) }} className="underline">
          Bench
        </Link>
        .
      </p>
    </section>
  );
}

/** The mark of a forecast that this case's own runs have taught. */
function Learned({ runs }: { runs: number }) {
  return (
    <span className="origin-measured" data-learned={runs}>
      learned from {measurements(runs)}
    </span>
  );
}

function Row(props: {
  name: string;
  rise: number;
  band?: number;
  limit?: number;
  diff?: number | null;
  diffBand?: number | null;
  room: number;
  onWhy: () => void;
}) {
  const units = useUnits();
  const { rise, band, limit, diff, diffBand, room } = props;
  const value = units.scale === "over" ? units.withUnit("difference", rise, 0) : units.withUnit("temperature", room + rise, 0);
  const at = (k: number) => `${Math.min(Math.max(k / MOST_K, 0), 1) * 100}%`;
  const hasDiff = diff !== undefined && diff !== null;
  return (
    <div className="grid grid-cols-[5.2rem_1fr_7.4rem] items-center gap-2 py-1" data-row={props.name} data-rise={rise}>
      <Why words={props.name} onClick={props.onWhy} />
      <svg viewBox="0 0 100 16" preserveAspectRatio="none" className="h-4 w-full" aria-hidden="true">
        <line x1="0" x2="100" y1="15.500" y2="15.500" stroke="currentColor" strokeOpacity="0.4" />
        <rect x="0" y="4" width={at(rise)} height="8" fill="var(--color-accent)" opacity="0.35" />
        {band !== undefined && (
          <rect x={at(rise - band)} y="6.500" width={at(2 * band)} height="3" fill="var(--color-accent)" opacity="0.5" />
        )}
        <rect x={at(rise)} y="2" width="1.600" height="12" fill="var(--color-accent)" />
        {limit !== undefined && <rect x={at(limit)} y="0" width="1.800" height="16" fill="currentColor" />}
      </svg>
      <span className="text-right font-mono leading-tight">
        {hasDiff ? (
          <>
            <span className="origin-forecast text-body font-semibold">
              {units.signed("difference", diff, 0)} {units.unit("difference")}
            </span>
            <span className="block text-fine text-faint">
              {units.band("difference", diffBand)}, to {value}
            </span>
          </>
        ) : (
          <>
            <span className="origin-forecast text-body font-semibold">{value}</span>
            {band !== undefined && (
              <span className="block text-fine text-faint">
                {units.band("difference", band)} {units.unit("difference")}
              </span>
            )}
          </>
        )}
      </span>
    </div>
  );
}

/** The name of a figure; a click tells how it came about. */
function Why({ words, onClick }: { words: string; onClick: () => void }) {
  return (
    <button
      type="button"
      className="cursor-pointer text-left underline decoration-dotted underline-offset-2"
      title={`How ${words.toLowerCase()} came about`}
      data-why={words}
      onClick={onClick}
    >
      {words}
    </button>
  );
}

function Sound(props: { forecast: LayoutForecast; limit: number | null; floor: number; onWhy: () => void }) {
  const { forecast, limit, floor } = props;
  const units = useUnits();
  const { level_dba: level, band_db: band } = forecast.sound;
  const at = (dba: number) => `${Math.min(Math.max((dba - floor + 4) / 28, 0), 1) * 100}%`;
  const d = forecast.differences;
  return (
    <div className="grid grid-cols-[5.2rem_1fr_7.4rem] items-center gap-2 py-1" data-row="Sound" data-level={level}>
      <Why words="Sound" onClick={props.onWhy} />
      <svg viewBox="0 0 100 16" preserveAspectRatio="none" className="h-4 w-full" aria-hidden="true">
        <line x1="0" x2="100" y1="15.500" y2="15.500" stroke="currentColor" strokeOpacity="0.4" />
        <rect x="0" y="4" width={at(level)} height="8" fill="var(--color-secondary)" opacity="0.35" />
        <rect x={at(level)} y="2" width="1.600" height="12" fill="var(--color-secondary)" />
        {limit !== null && <rect x={at(limit)} y="0" width="1.800" height="16" fill="currentColor" />}
      </svg>
      <span className="text-right font-mono leading-tight">
        <span className="origin-forecast text-body font-semibold">
          {d ? `${units.signed("level", d.sound_db, 0)} dB` : units.withUnit("level", level)}
        </span>
        <span className="block text-fine text-faint">
          {d
            ? `${units.band("level", d.sound_band_db)}, to ${units.withUnit("level", level)}`
            : `${units.band("level", band)} dB`}
        </span>
      </span>
    </div>
  );
}

function Balance({ forecast, layout, onWhy }: { forecast: LayoutForecast; layout: LayoutDoc; onWhy: () => void }) {
  const fans = layout.fans ?? [];
  const stood = fans.filter((f) => f.state === "unplugged").length;
  const still = forecast.fans.filter((f) => f.turning === "off");
  const units = useUnits();
  const b = forecast.balance;
  const total = b.intake_m3h + b.exhaust_m3h;
  const word = b.state === "even" ? "about even" : b.state;
  const more = b.state === "positive";
  const share = total > 0 ? (b.intake_m3h / total) * 100 : 50;
  return (
    <div className="mt-3" data-balance={word} data-inflow={b.inflow_total_m3h} data-outflow={b.outflow_total_m3h}>
      <Head
        level={3}
        remark={
          <>
            <Term t="pressure">case</Term> {units.signed("pressure", b.case_pressure_pa)} {units.unit("pressure")}
          </>
        }
      >
        <Why words="Air balance" onClick={onWhy} />
      </Head>
      <div className="mt-1.5 flex h-6 overflow-hidden rounded border border-base-content text-fine font-semibold text-base-100">
        <div className="flex items-center justify-center bg-pine" style={{ width: `${share}%` }}>
          {share > 18 && `in ${units.withUnit("flow", b.intake_m3h)}`}
        </div>
        <div className="flex flex-1 items-center justify-center bg-copper">
          {share < 82 && `out ${units.withUnit("flow", b.exhaust_m3h)}`}
        </div>
      </div>
      <p className="mt-1 text-small">
        <Term t="count">By count</Term> {b.intake_count} in, {b.exhaust_count} out
        {stood + still.length ? `, ${fans.length - stood - still.length} of ${fans.length} running` : ""}
        {still.length
          ? `; at this load ${still.map((f) => f.mount.toUpperCase()).join(", ")} stand${still.length === 1 ? "s" : ""} still`
          : ""}
        . <Term t="flow">By flow</Term> <Term t="balance">{word}</Term>
        {b.unfiltered_inflow_pct >= 2
          ? `; ${units.withUnit("flow", (b.unfiltered_inflow_pct / 100) * b.inflow_total_m3h)} of what comes in is unfiltered.`
          : "; nearly all that comes in is filtered."}
        {num(b.shroud_count) > 0 &&
          ` On the shroud ${b.shroud_count} more, moving ${units.withUnit("flow", b.shroud_m3h)} within the case.`}
      </p>
      {b.rest.length > 0 && (
        <p className="text-small" data-openings>
          What the fans {more ? "bring in" : "take out"} beyond that {more ? "leaves" : "comes in"} by{" "}
          {b.rest
            .slice(0, 3)
            .map((x) => `${x.words} (${units.withUnit("flow", Math.abs(x.out_m3h)).replace(" ", "\u00a0")})`)
            .join(", ")}
          {b.rest.length > 3 ? " and elsewhere." : "."}
          {b.pressure_against &&
            ` The mean pressure inside is ${more ? "below" : "above"} the room's all the same: it differs from place to place.`}
        </p>
      )}
    </div>
  );
}
