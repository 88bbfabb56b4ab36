import type { Live } from "@/shared/api/live";
import { pointChannels } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, unitKind } from "@/shared/words/words";
import { swing } from "@/stations/bench/swing";
import { stillOpen } from "./words";

const FIRST = ["cpu_package_c", "card_core_c", "coolant_c"];
const THEN = ["vrm_c", "air_rear_c", "board_sensor_c"];
const POWERS = ["cpu_power_w", "card_power_w"]; // what tells of a part at its limit
const MOST = 5;

type LiveChannel = NonNullable<Live["figures"]>["channels"][number];

/** Large figures over room, each with its soak bar, to be read from two metres. */
export function SoakRows({ live }: { live: Live }) {
  const { document } = useJob();
  const points = pointChannels(document);
  const channels = live.figures?.channels ?? [];
  const critical = (document.points ?? []).filter((p) => p.critical).flatMap((p) => [`air_${p.id}_c`, `air_${p.sensor}_c`]);
  const limited = channels.some((c) => c.at_limit);
  const wanted = [...FIRST, ...(limited ? POWERS : []), ...critical];
  const rows = wanted.flatMap((n) => channels.filter((c) => c.name === n));
  const rank = (n: string) => (THEN.includes(n) ? THEN.indexOf(n) : n.startsWith("air_") ? 3 : 9);
  const loaded = channels
    .filter((c) => c.settled !== null && !rows.includes(c) && (rows.length < 2 || rank(c.name) < 9))
    .sort((a, b) => rank(a.name) - rank(b.name));
  const sound = channels.filter((c) => c.name === "sound_dba");
  const shown = [...rows, ...loaded].slice(0, MOST - sound.length).concat(sound);
  const open = stillOpen(channels, shown);
  if (!shown.length) return <p className="py-6 text-title text-faint">The first readings are coming in …</p>;
  return (
    <div className="flex flex-col">
      {shown.map((c) => (
        <Row key={c.name} channel={c} words={points.get(c.name) ?? channelWords(c.name)} background={live.run?.background_dba} />
      ))}
      {open[0] && (
        <p className="py-1 text-body" data-still-open={open[0].name}>
          Without a row here and not settled yet: <strong>{points.get(open[0].name) ?? channelWords(open[0].name)}</strong>
          {open[0].more && `, ${open[0].more}`}
          {open.length > 1 && `; and ${open.length - 1} more`}
        </p>
      )}
    </div>
  );
}

function Row({ channel: c, words, background }: { channel: LiveChannel; words: string; background?: number | null }) {
  const units = useUnits();
  const temperature = c.name.endsWith("_c");
  const over = temperature && c.rise_k !== null && units.scale === "over";
  const figure = over
    ? units.text("difference", c.rise_k)
    : temperature
      ? units.text("temperature", c.value)
      : units.reading(unitKind(c.name), c.value);
  const unit = over ? units.unit("difference") : temperature ? units.unit("temperature") : units.unit(unitKind(c.name));
  return (
    <div
      className="grid grid-cols-[9rem_minmax(0,1fr)_minmax(10rem,auto)] items-center gap-4 border-b hairline py-1 max-sm:grid-cols-[minmax(0,1fr)_auto] max-sm:gap-x-3 max-sm:gap-y-1"
      data-live={c.name}
      data-settled={c.settled === null ? "" : String(c.settled)}
    >
      <span className={`wide ${words.length > 12 ? "text-lead leading-tight" : "truncate text-title"}`}>{words}</span>
      {temperature || c.settled !== null ? (
        <div className="max-sm:order-3 max-sm:col-span-2">
          <Bar channel={c} />
        </div>
      ) : (
        <span className="text-body text-faint max-sm:order-3 max-sm:col-span-2">
          {background !== null && background !== undefined ? `the room alone ${background.toFixed(1)}` : "level as it is read"}
        </span>
      )}
      <span className="text-right font-mono leading-none">
        <span className="text-huge font-semibold max-sm:text-huge">{figure}</span>
        <span className="ml-1.5 inline-block w-10 text-left text-title">{unit}</span>
      </span>
    </div>
  );
}

function Bar({ channel: c }: { channel: LiveChannel }) {
  const units = useUnits();
  const share = c.settled ? 1 : num(c.soaked);
  const kind = c.name.endsWith("_c") ? "difference" : unitKind(c.name);
  const band = `${units.band(kind, c.band_k, 1)} ${units.unit(kind)}`;
  const rate = c.rate_k_min === null ? "" : `${units.signed(kind, c.rate_k_min, 1)} ${units.unit(kind)}/min`;
  const words = c.at_limit
    ? "at its limit: its power tells"
    : c.settled
      ? `settled, ends within ${band}${swing(c, units)}`
      : c.settled === null
        ? c.more || "hardly warms so far"
        : c.more;
  return (
    <div className="relative h-8 overflow-visible rounded-sm border border-base-content" data-soak={share.toFixed(2)}>
      <div
        className={`absolute inset-y-0 left-0 ${c.settled ? "bg-base-content" : ""}`}
        style={{
          width: `${100 * share}%`,
          backgroundImage: c.settled
            ? undefined
            : "repeating-linear-gradient(115deg, color-mix(in oklab, var(--color-base-content) 30%, transparent) 0 7px, color-mix(in oklab, var(--color-base-content) 12%, transparent) 7px 14px)",
        }}
      />
      <span className="absolute -inset-y-1 right-0 w-[3px] translate-x-1/2 bg-base-content" aria-hidden="true" />
      <span
        className={`relative flex h-full items-center justify-between gap-3 px-2.5 text-body font-semibold ${c.settled ? "text-base-100" : ""}`}
      >
        <span className="truncate">{words}</span>
        <span className="shrink-0 font-mono text-small font-normal">{rate}</span>
      </span>
    </div>
  );
}
