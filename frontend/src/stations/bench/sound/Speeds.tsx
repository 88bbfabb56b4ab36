import { useState } from "react";
import type { LayoutDoc } from "@/shared/api/client";
import {
  type Clip,
  type Procedure,
  type Purpose,
  type SoundLoad,
  useAddLevel,
  useClips,
  useMakeUpLevel,
  useProcedure,
  useStrikeLevel,
} from "@/shared/api/sounds";
import { Figure } from "@/shared/charts/Figure";
import { SpeedLevels } from "@/shared/charts/SpeedLevels";
import { duplicateLayout, freeLayoutId, setSpeeds } from "@/shared/job/edits";
import { useJob, useSaving } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Segments, Select, Working } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { has, num } from "@/shared/words/lists";
import { CAUTIONS, SOUND_LOADS, USUAL, within } from "@/shared/words/words";
import { STORING, useClipKeeper, useOwnPlace, useRecorder } from "./recording";

const shown = () => undefined; // what went wrong stands with the keeper

/** What the clip of this speed told: it goes along with the reading. */
function takenWords(clip: Clip | undefined): string {
  if (!clip) return "";
  if (clip.state === "waiting") return "The recording is being listened to …";
  if (clip.state === "failed") return `The recording tells nothing: ${clip.fault?.title ?? "it could not be heard"}`;
  const found = `${clip.tones || "no"} ${clip.tones === 1 ? "tone" : "tones"}, ${clip.beats || "no"} ${clip.beats === 1 ? "beat" : "beats"}`;
  return `Recorded at this speed: ${found}. ${clip.calibrated ? "Its level stands above." : "It is tied to no level: read that off the meter."}`;
}

type Band = Procedure["procedure"]["bands"][number];

/** A sweep, or the way to a level: what to set, what is read, what it tells. */
export function Speeds({ purpose, layout }: { purpose: Purpose; layout: LayoutDoc }) {
  const { id, document, edit } = useJob();
  const { save } = useSaving(); // the server looks at what is stored: once more when that is so
  const { choose } = useWorkbench();
  const running = (layout.fans ?? []).filter((f) => (f.state ?? "running") === "running");
  const groups = layout.groups ?? [];
  const sets = [
    { value: "", words: "all case fans together" },
    ...groups.map((g) => ({ value: `group ${g.id}`, words: `group ${g.id}` })),
    ...[...new Set(running.map((f) => f.mount))].map((m) => ({ value: m, words: `the fan at ${m.toUpperCase()}` })),
  ];
  const [set, setSet] = useState("");
  const mounts = set.startsWith("group ")
    ? [...new Set(running.filter((f) => `group ${f.group}` === set).map((f) => f.mount))]
    : set
      ? [set]
      : [];
  const [target, setTarget] = useState<number>(document.room?.sound_limit_dba ?? USUAL.quiet_dba);
  const [load, setLoad] = useState<SoundLoad | null>(null);
  const [anew, setAnew] = useState(false);
  const asked = { layout: layout.id, purpose, load, mounts, target_dba: target, anew };
  const found = useProcedure(id, asked, [layout, document.parts, document.room, save]);
  const add = useAddLevel(id);
  const makeUp = useMakeUpLevel(id);
  const strike = useStrikeLevel(id);
  const clips = useClips(id).data ?? [];
  const recorder = useRecorder();
  const keeper = useClipKeeper(layout.id, null, clips);
  const place = useOwnPlace();
  const [taken, setTaken] = useState<number | null>(null);
  const clip = clips.find((c) => c.id === taken);
  const [typed, setLevel] = useState<number | null>(null);
  const level = typed ?? (clip?.calibrated ? clip.level : null);
  const [byItself, setByItself] = useState(false);
  const p = found.data?.procedure;
  const readings = found.data?.readings ?? [];
  const good = readings.filter((r) => !r.struck);
  const next = p?.next.speed_pct ?? null;
  const speed = next === null ? null : Math.round(next);
  const stale = found.isPlaceholderData; // the next speed is not known yet
  const busy = stale || add.isPending || makeUp.isPending || byItself || recorder.going || clip?.state === "waiting";
  const keep = () => {
    if (level === null || speed === null) return;
    // Cleared at once, so that what is typed next is never taken for this; given back where it was not kept.
    const [wasTyped, wasTaken] = [typed, taken];
    setLevel(null);
    setTaken(null);
    add.mutate(
      { ...asked, speed_pct: speed, level_dba: level, clip: wasTaken },
      {
        onSuccess: () => setAnew(false),
        onError: () => {
          setLevel(wasTyped);
          setTaken(wasTaken);
        },
      },
    );
  };
  const take = async () => {
    const made = await recorder.take(`${purpose}, ${speed} %.wav`);
    if (!made) return;
    const at = found.data && speed !== null ? { load: found.data.load, mounts, speed_pct: speed } : undefined;
    const heard = { kind: "machine" as const, place, reading: typed, gainMoves: made.gainMoves, at };
    await keeper.keep(made.file, heard).then((c) => setTaken(c.id), shown);
  };
  const walk = async () => {
    setByItself(true);
    try {
      let at = speed;
      let first = anew;
      for (let i = 0; i < 20 && at !== null; i++) {
        const step = await makeUp.mutateAsync({ ...asked, anew: first, speed_pct: Math.round(at) });
        first = false;
        setAnew(false);
        at = step.procedure.next.speed_pct ?? null;
      }
    } catch {
      // what went wrong stands with the mutation; what was read stays
    } finally {
      setByItself(false);
    }
  };
  const speeds = (pct: number) =>
    Object.fromEntries(running.filter((f) => !mounts.length || mounts.includes(f.mount)).map((f) => [f.mount, pct]));
  const fansSet = () => new Set(running.filter((f) => !mounts.length || mounts.includes(f.mount)).map((f) => f.fan));
  const forget = () =>
    edit(`forget speeds to avoid in ${layout.id}`, (d) => {
      const ids = fansSet();
      for (const fan of d.parts?.fans ?? []) {
        if (!ids.has(fan.id)) continue;
        fan.avoids = [];
        fan.hums_from_rpm = null;
        fan.hums_to_rpm = null;
      }
    });
  const avoid = (band: Band) =>
    edit(`speeds to avoid in ${layout.id}`, (d) => {
      for (const fan of d.parts?.fans ?? [])
        for (const { from_rpm, to_rpm } of band.avoids.filter((a) => a.fan === fan.id))
          fan.avoids = [...(fan.avoids ?? []), { from_rpm, to_rpm, why: band.why }];
    });
  const asLayout = (pct: number) => {
    const fresh = freeLayoutId(document);
    edit(`${layout.id} at ${target.toFixed(1)} dBA`, (d) => {
      duplicateLayout(d, layout.id, fresh);
      setSpeeds(d, fresh, speeds(pct));
      const made = d.layouts?.find((x) => x.id === fresh);
      if (made) made.name = `${layout.name || layout.id} at ${target.toFixed(0)} dBA`;
    });
    choose(fresh);
  };
  return (
    <section
      className="flex flex-col gap-4"
      data-procedure={purpose}
      data-within={p?.next.within ?? false}
      data-readings={good.length}
    >
      <div className="flex flex-wrap items-end gap-3">
        <Select label="Which fans are set" value={set} choices={sets} onChange={setSet} />
        <Segments
          label="What the machine does meanwhile"
          value={found.data?.load ?? ""}
          choices={SOUND_LOADS}
          onChange={(v) => setLoad(v as SoundLoad)}
        />
        {purpose === "equal" && (
          <NumberField
            label="Level wanted"
            kind="level"
            digits={1}
            value={target}
            {...within("ask.level_dba")}
            onCommit={(v) => v !== null && setTarget(v)}
          />
        )}
        {readings.length > 0 && (
          <button type="button" className="cursor-pointer text-small underline" onClick={() => setAnew(true)}>
            begin anew
          </button>
        )}
      </div>
      {found.error && <p role="alert">{found.error.message}</p>}
      {found.isPending && <Working words="What was read is being looked at …" />}
      {found.data?.outdated && !found.data.begun && (
        <p className="text-small text-warning" data-outdated>
          What was read before is of {layout.id} as it was drawn then: it stays stored and teaches the forecast; this begins anew.
        </p>
      )}
      {p && (
        <>
          <div className="flex flex-wrap items-end gap-3 rounded-box border border-base-content bg-paper p-3">
            <p className="w-full text-lead" role="status">
              {p.next.words}
            </p>
            {speed !== null && (
              <>
                <p className="w-full text-small text-faint">
                  Set it in the firmware or the fan controller, wait until the pitch stands still, and read ten seconds' mean off
                  the meter, always at the same place.
                </p>
                <NumberField
                  label={`Level at ${speed} %, dBA`}
                  digits={1}
                  value={level === null ? null : Math.round(level * 10) / 10}
                  {...within("ask.level_dba")}
                  onCommit={setLevel}
                />
                {recorder.going ? (
                  <Button onClick={recorder.stop}>Stop</Button>
                ) : (
                  <Button disabled={busy} onClick={() => void take()}>
                    Record ten seconds here
                  </Button>
                )}
                <Button strong disabled={busy || level === null} onClick={keep}>
                  Keep this reading
                </Button>
                <Button disabled={busy} onClick={() => void walk()}>
                  {byItself ? "Setting and reading …" : "Let the made-up machine do it"}
                </Button>
                <p role="status" className="w-full text-small">
                  {recorder.words || (keeper.pending ? STORING : takenWords(clip))}
                </p>
              </>
            )}
            {purpose === "equal" && p.next.found_pct != null && (
              <Button strong onClick={() => asLayout(num(p.next.found_pct))}>
                Keep these speeds as a layout
              </Button>
            )}
          </div>
          {p.floor_words && (
            <p className="text-small text-warning" data-floor>
              {p.floor_words}
            </p>
          )}
          {speed !== null && <Caution>{CAUTIONS.sweep}</Caution>}
          {(add.error || makeUp.error || keeper.error) && (
            <p role="alert">Not kept: {(add.error ?? makeUp.error ?? keeper.error)?.message}</p>
          )}
          <Figure
            title="Level and speed"
            name={`levels-${layout.id}-${purpose}`}
            remark={
              p.exponent_db != null
                ? `${good.length || purpose === "sweep" ? "" : "as its sweep has it: "}rises by ${p.exponent_db.toFixed(0)} ±${num(p.exponent_band_db).toFixed(0)} dB per tenfold speed; the rest is ${p.floor_dba.toFixed(1)} dBA`
                : "dashed: as forecast, until something is read"
            }
            table={{
              head: ["speed, %", "level, dBA", "tone", "swells, dB"],
              rows: good.map((r) => [
                r.speed_pct,
                r.level_dba,
                r.tone_hz === null ? "" : `${r.tone_hz.toFixed(0)} Hz, ${num(r.tone_db).toFixed(1)} dB`,
                r.beat_db === null ? "" : r.beat_db.toFixed(1),
              ]),
            }}
          >
            <SpeedLevels
              law={p.law as [number, number, number][]}
              points={readings}
              known={p.exponent_db != null}
              bands={p.bands}
              avoid={[...p.avoid, ...(p.found ?? [])] as [number, number][]}
              target={purpose === "equal" ? target : null}
              next={speed}
              words="Level over speed"
            />
          </Figure>
          {has(p.found) && (
            <p className="text-small" data-found-by-sweep={p.found?.length}>
              Kept out of, since a sweep found them: <span className="font-mono">{spans(p.found)}</span>
            </p>
          )}
          {p.avoid.length > 0 && (
            <p className="flex flex-wrap items-center gap-3 text-small" data-avoided={p.avoid.length}>
              <span>
                Avoided already: <span className="font-mono">{spans(p.avoid)}</span>
              </span>
              <button type="button" className="cursor-pointer underline" onClick={forget}>
                forget them
              </button>
            </p>
          )}
          {p.bands.length > 0 && (
            <div className="flex flex-col gap-1">
              <Head remark="kept with the fan; no speed is chosen there any more">Speeds to avoid</Head>
              {p.bands.map((b) => (
                <p key={b.from_pct} className="flex flex-wrap items-center gap-3 text-small" data-bad-band={b.from_pct}>
                  <span>
                    <span className="font-mono">
                      {b.from_pct.toFixed(0)} to {b.to_pct.toFixed(0)} %
                    </span>
                    : {b.why}
                  </span>
                  <Button small onClick={() => avoid(b)}>
                    Avoid it from now on
                  </Button>
                </p>
              ))}
            </div>
          )}
          {readings.length > 0 && (
            <ul className="flex flex-wrap gap-x-4 gap-y-1 text-small" aria-label="Readings">
              {readings.map((r) => (
                <li key={r.id} className={r.struck ? "line-through opacity-60" : ""}>
                  <span className="font-mono">
                    {r.speed_pct.toFixed(0)} %: {r.level_dba.toFixed(1)} dBA
                  </span>{" "}
                  <button type="button" className="cursor-pointer text-fine underline" onClick={() => strike.mutate(r.id)}>
                    {r.struck ? "count it" : "strike"}
                  </button>
                </li>
              ))}
            </ul>
          )}
        </>
      )}
    </section>
  );
}

const spans = (of: (number | undefined)[][] | undefined) =>
  of?.map(([a, b]) => `${num(a).toFixed(0)} to ${num(b).toFixed(0)} %`).join(", ");
