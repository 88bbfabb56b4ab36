import { useState } from "react";
import {
  type BenchRow,
  useAddInstrument,
  useLive,
  useMakeBench,
  useNewToken,
  usePaceStandIn,
  useRemoveInstrument,
  useStartStandIn,
  useStopStandIn,
} from "@/shared/api/live";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Select, TextField } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { CAUTIONS, channelWords, INSTRUMENTS, readingKind, within } from "@/shared/words/words";
import { DIFFICULT, FaultChoice, useFaultChoice } from "../FaultChoice";
import { StoredReadings } from "./StoredReadings";

const MOST_SHOWN = 6;

/** Benches and what feeds them: a logger elsewhere, a growing file, instruments, or the stand-in machine. */
export function Benches({
  benches,
  chosen,
  onChoose,
}: {
  benches: BenchRow[];
  chosen: BenchRow | null;
  onChoose: (id: number) => void;
}) {
  const make = useMakeBench();
  const [name, setName] = useState("");
  return (
    <section className="flex flex-col gap-4 rounded-box border border-base-content bg-paper p-4" aria-label="Benches">
      <Head remark={`${benches.length}`}>Benches</Head>
      <div className="flex flex-wrap items-end gap-3">
        {benches.map((b) => (
          <button
            key={b.id}
            type="button"
            aria-pressed={b.id === chosen?.id}
            onClick={() => onChoose(b.id)}
            className={`cursor-pointer rounded-box border px-3 py-1 text-left text-small ${b.id === chosen?.id ? "border-base-content bg-base-content text-base-100" : "hairline"}`}
          >
            <span className="block font-semibold">{b.name}</span>
            <span className="block opacity-80">{b.run_name ? `live: ${b.run_name}` : b.silent ? "silent" : "readings come"}</span>
          </button>
        ))}
        <TextField label="A new bench" value={name} onChange={setName} />
        <Button
          disabled={!name.trim() || make.isPending}
          onClick={() =>
            make.mutate(name.trim(), {
              onSuccess: (b) => {
                setName("");
                onChoose(b.id);
              },
            })
          }
        >
          Add the bench
        </Button>
      </div>
      {make.error && (
        <p role="alert" className="text-small text-error">
          {make.error.message}
        </p>
      )}
      {chosen && (
        <Feeding bench={chosen} fresh={make.data?.id === chosen.id ? (make.data?.token ?? null) : null} making={make.isPending} />
      )}
      <StandInBench onStarted={onChoose} benches={benches} />
    </section>
  );
}

/** `fresh`: the token that came with a bench just made; while `making`, it is still on its way. */
function Feeding({ bench, fresh, making }: { bench: BenchRow; fresh: string | null; making: boolean }) {
  const renew = useNewToken();
  const [where, setWhere] = useState<"here" | "there" | null>(null);
  // While another is asked for, the one before may be dead already: it is not offered for copying.
  const token = renew.isPending ? null : renew.data?.id === bench.id ? renew.data.token : fresh;
  const url = `${location.origin}/api/benches/${bench.id}`;
  const port = location.port || "80";
  const watch = `./oventa watch --bench ${url} --token ${token ?? "…"}`;
  const open = (place: "here" | "there") => {
    setWhere(place);
    // A token that is in use is never made worthless by a look at the command.
    if (!token && !making && !renew.isPending && bench.silent) renew.mutate(bench.id);
  };
  return (
    <div className="flex flex-col gap-3">
      <Head level={3} remark={bench.sources.map((s) => s.source).join(", ") || "nothing now"}>
        What feeds {bench.name}
      </Head>
      <div className="flex flex-wrap items-center gap-3">
        <span className="text-body">The machine under test reads its own sensors. It is</span>
        <Button strong={where === "here"} onClick={() => open("here")}>
          This machine
        </Button>
        <Button strong={where === "there"} onClick={() => open("there")}>
          Another machine
        </Button>
      </div>
      {where === "there" && (
        <>
          <p className="text-small">
            Oventa answers on its own machine only. Open a way from there to here with this, run here (your name and the machine's
            instead of <span className="font-mono">you@machine</span>), and leave it open:
          </p>
          <Command line={`ssh -N -R ${port}:127.0.0.1:${port} you@machine`} name="tunnel" />
        </>
      )}
      {where && (
        <>
          <p className="text-small">
            {where === "here" ? "Run this in a shell, in Oventa's folder." : "Then run this there, in a copy of Oventa's folder."}{" "}
            It names every sensor with its value and says what is missing and what that costs.
          </p>
          <Command line={watch} name="watch" />
          <FirstReading bench={bench} />
          <p className="text-small">
            <span className="font-mono">--choose</span> lets you name the sensors yourself.{" "}
            <span className="font-mono">--load "your program"</span> starts your load when a run says so and ends it with the run,
            at a limit, or with Ctrl+C; for several loads give <span className="font-mono">--load "cpu=…"</span> and{" "}
            <span className="font-mono">--load "card=…"</span>.
          </p>
          <Caution more={CAUTIONS.runMore}>{CAUTIONS.longLoad}</Caution>
        </>
      )}
      {!where && <FirstReading bench={bench} />}
      <details className="text-small">
        <summary className="cursor-pointer">A log file that another program writes</summary>
        <p className="my-2">
          Run this on the machine that has it. Any program may post readings; the format is open (docs/formats/readings.md).
        </p>
        <Command line={`./oventa push RUN.csv --follow --bench ${url} --token ${token ?? "…"}`} name="push" />
      </details>
      <div className="flex items-center gap-3 text-small">
        <Button small onClick={() => renew.mutate(bench.id)}>
          {token ? "Make another token" : "Show a new token"}
        </Button>
        <span className="text-faint">
          {token ? "Copy it now: it is shown once and not kept in plain." : "The token before stops working."}
        </span>
      </div>
      {bench.sources.map(
        (s) =>
          s.clock_jumps > 0 && (
            <p key={s.source} role="status" className="rounded-md border border-warning p-2 text-small">
              The clock of {s.source} has jumped {s.clock_jumps === 1 ? "once" : `${s.clock_jumps} times`}: since then its
              readings stand where they came in, not where its clock put them. Set that machine's clock, and start its sender
              anew.
            </p>
          ),
      )}
      <StoredReadings bench={bench} />
      <Instruments bench={bench} />
    </div>
  );
}

/** A ready command, to be copied whole. */
function Command({ line, name }: { line: string; name: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <div className="flex items-start gap-2">
      <pre
        className="min-w-0 flex-1 overflow-x-auto rounded-md border hairline bg-base-200 p-2 font-mono text-fine"
        data-command={name}
      >
        {line}
      </pre>
      <Button
        small
        onClick={() => {
          void navigator.clipboard?.writeText(line).then(() => setCopied(true));
        }}
      >
        {copied ? "Copied" : "Copy"}
      </Button>
    </div>
  );
}

/** The first reading is shown the moment it comes. */
function FirstReading({ bench }: { bench: BenchRow }) {
  const units = useUnits();
  const live = useLive(bench.id);
  const latest = Object.entries(live.data?.latest ?? {});
  if (bench.silent || !latest.length)
    return (
      <p role="status" className="text-small" data-heard="0">
        No readings come now; the first is shown here as it comes.
      </p>
    );
  const shown = latest.slice(0, MOST_SHOWN).map(([name, value]) => {
    const kind = readingKind(name);
    return `${channelWords(name)} ${units.reading(kind, value)} ${units.unit(kind)}`.trimEnd();
  });
  return (
    <p role="status" className="rounded-md border border-base-content p-2 text-body" data-heard={latest.length}>
      <strong>Readings come.</strong> {shown.join(", ")}
      {latest.length > MOST_SHOWN && ` and ${latest.length - MOST_SHOWN} more`}. Make a run above.
    </p>
  );
}

function Instruments({ bench }: { bench: BenchRow }) {
  const add = useAddInstrument();
  const remove = useRemoveInstrument();
  const [kind, setKind] = useState<(typeof INSTRUMENTS)[number]["value"]>("logger");
  const [address, setAddress] = useState("");
  const [channels, setChannels] = useState("");
  const example = INSTRUMENTS.find((x) => x.value === kind)?.channels;
  const map = Object.fromEntries(
    channels
      .split(",")
      .map((c) => c.split("=").map((x) => x.trim()))
      .filter((p) => p.length === 2 && p[0] && p[1]) as [string, string][],
  );
  return (
    <details className="text-small" open={bench.instruments.length > 0}>
      <summary className="cursor-pointer">Instruments that are read from here ({bench.instruments.length})</summary>
      <div className="mt-2 flex flex-col gap-2">
        {bench.instruments.map((i) => (
          <p key={i.id} className="flex items-baseline gap-3">
            <strong>{INSTRUMENTS.find((x) => x.value === i.kind)?.words ?? i.kind}</strong>{" "}
            <span className="font-mono">{i.address}</span>
            <span className="flex-1 text-faint">{i.words || `read every ${i.every_s} s`}</span>
            <button type="button" className="cursor-pointer underline" onClick={() => remove.mutate(i.id)}>
              remove
            </button>
          </p>
        ))}
        <div className="flex flex-wrap items-end gap-3">
          <Select label="Kind" value={kind} choices={INSTRUMENTS} onChange={(v) => setKind(v as typeof kind)} />
          <TextField label="Address: host:port, or a serial port" value={address} onChange={setAddress} />
          {example && <TextField label={`Channels: ${example}`} value={channels} onChange={setChannels} />}
          <Button
            disabled={!address.trim() || add.isPending}
            onClick={() =>
              add.mutate(
                {
                  bench: bench.id,
                  body: {
                    kind,
                    address: address.trim(),
                    channels: map,
                    every_s: INSTRUMENTS.find((x) => x.value === kind)?.every_s,
                  },
                },
                { onSuccess: () => setAddress("") },
              )
            }
          >
            {add.isPending ? "Asking it …" : "Read it from here"}
          </Button>
        </div>
        {add.error && (
          <p role="alert" className="text-error">
            {add.error.message}
          </p>
        )}
      </div>
    </details>
  );
}

function StandInBench({ benches, onStarted }: { benches: BenchRow[]; onStarted: (id: number) => void }) {
  const { id } = useJob();
  const { layoutId } = useWorkbench();
  const start = useStartStandIn(id);
  const stop = useStopStandIn();
  const pace = usePaceStandIn();
  const [rate, setRate] = useState("10");
  const [seed, setSeed] = useState(1);
  const choice = useFaultChoice(layoutId, 10);
  const own = benches.find((b) => b.standin && b.standin_job === id);
  return (
    <details className="text-small" open={!benches.some((b) => !b.made_up)}>
      <summary className="cursor-pointer">No machine at hand? A made-up one on a bench of its own</summary>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <Select
          label="Time"
          value={rate}
          choices={["1", "10", "30", "60", "120"].map((v) => ({
            value: v,
            words: v === "1" ? "as in life" : `${v} times as fast`,
          }))}
          onChange={setRate}
        />
        <NumberField
          label="Seed"
          {...within("standin.seed")}
          digits={0}
          value={seed}
          onCommit={(v) => v !== null && setSeed(Math.round(v))}
        />
        <FaultChoice choice={choice} when="Minutes after the load" difficult />
        <Button
          disabled={start.isPending}
          onClick={() =>
            start.mutate(
              {
                layout: layoutId,
                rate: Number(rate),
                seed,
                difficult: choice.kind === DIFFICULT,
                faults: choice.faults,
                name: "",
              },
              { onSuccess: (b) => onStarted(b.id) },
            )
          }
        >
          {start.isPending
            ? "Starting it …"
            : own
              ? `Start it anew with layout ${layoutId}`
              : `Start a made-up machine of ${layoutId}`}
        </Button>
        {own && (
          <>
            <Button onClick={() => pace.mutate({ id: own.id, paused: !own.standin_paused, rate: Number(rate) })}>
              {own.standin_paused ? "Go on" : "Pause it"}
            </Button>
            <Button onClick={() => pace.mutate({ id: own.id, paused: own.standin_paused ?? false, rate: Number(rate) })}>
              Take this time
            </Button>
            <Button onClick={() => stop.mutate(own.id)}>Stop it</Button>
          </>
        )}
      </div>
      {own?.standin_logger && (
        <p className="mt-2 text-faint">
          Beside it stand a logger that answers SCPI at <span className="font-mono">{own.standin_logger}</span> (channels 101 to
          105) and a sound meter that writes lines at <span className="font-mono">{own.standin_meter}</span>; read them from any
          bench as you would read real ones.
        </p>
      )}
      {(start.error ?? stop.error) && (
        <p role="alert" className="mt-2 text-error">
          {(start.error ?? stop.error)?.message}
        </p>
      )}
    </details>
  );
}
