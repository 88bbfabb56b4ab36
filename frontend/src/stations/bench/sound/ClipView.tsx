import { useState } from "react";
import { type Clip, type Sound, type Tie, useClip, useSpectra, useStrikeClip, useTieClip } from "@/shared/api/sounds";
import { Figure } from "@/shared/charts/Figure";
import { Octaves } from "@/shared/charts/Octaves";
import { Spectrogram } from "@/shared/charts/Spectrogram";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { Term, type TermKey } from "@/shared/ui/Term";
import { num } from "@/shared/words/lists";
import { CLIP_FLAGS, CLIP_TIES, within } from "@/shared/words/words";
import { levelWords } from "./ClipList";

/** What a clip holds. */
export function ClipView({ clip, clips }: { clip: Clip; clips: readonly Clip[] }) {
  const { id } = useJob();
  const whole = useClip(clip);
  const spectra = useSpectra(id, clips);
  const strike = useStrikeClip(id);
  const sound = whole.data?.clip.id === clip.id ? whole.data.sound : null;
  const pictures = whole.data?.clip.id === clip.id ? whole.data.pictures : null;
  const unit = sound?.calibrated ? "dB" : "dB re full scale";
  const bands = (sound?.one_third_octaves ?? []).map((b) => [b.centre_hz, b.level_db] as const);
  const others = (spectra.data ?? []).filter((s) => s.layout !== clip.layout && s.calibrated === sound?.calibrated).slice(0, 3);
  return (
    <article className="flex min-w-0 flex-col gap-4" data-clip-view={clip.state}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-head">{levelWords(clip)}</h1>
        <span className="text-small text-faint">
          {clip.name}, {clip.seconds.toFixed(0)} s{clip.made_up ? ", made up" : ""}
          {clip.microphone.distance_m ? `, microphone at ${clip.microphone.distance_m} m` : ""}
        </span>
      </header>
      {clip.fault && (
        <p role="alert">
          {clip.fault.title}. {clip.fault.do}
        </p>
      )}
      {whole.error && <p role="alert">No answer: {whole.error.message}</p>}
      {sound && (
        <>
          <Levels sound={sound} />
          {whole.data?.alone && (
            <p className="text-small" data-alone={whole.data.alone.bound ? "bound" : "known"}>
              The machine alone:{" "}
              <span className="font-mono">
                {whole.data.alone.bound ? "at most " : ""}
                {whole.data.alone.level_dba.toFixed(1)} dBA
              </span>{" "}
              ({whole.data.alone.words}; ISO 3744 and 3746)
            </p>
          )}
          <Flags sound={sound} gainMoves={clip.gain_moves} />
          <TieForm clip={clip} clips={clips} />
          <Figure
            title="Spectrum"
            name={`spectrum-${clip.layout}`}
            remark={others.length ? `bars: this clip; lines: the latest of ${others.map((s) => s.layout).join(", ")}` : unit}
            table={{
              head: ["Hz", unit, ...others.map((s) => s.layout)],
              rows: bands.map(([hz, v], i) => [hz, v.toFixed(1), ...others.map((s) => s.bands[i]?.[1]?.toFixed(1) ?? "")]),
            }}
          >
            <Octaves
              words={`One-third octaves in ${unit}`}
              spectra={[
                { name: clip.layout, bands, leads: true },
                ...others.map((s) => ({ name: s.layout, bands: s.bands as [number, number][], leads: false })),
              ]}
            />
          </Figure>
          <Tones sound={sound} />
          {pictures && pictures.rows.length > 1 && (
            <Figure
              title="Over time"
              name={`spectrogram-${clip.id}`}
              remark="the darker, the louder; a beat shows as stripes"
              table={{
                head: ["s", sound.calibrated ? "dBA" : "dB re full scale"],
                rows: pictures.curve.map(([t, v]) => [num(t), num(v)]),
              }}
            >
              <Spectrogram hz={pictures.hz} rows={pictures.rows} stepS={pictures.step_s} words="Level by frequency over time" />
            </Figure>
          )}
          <footer className="flex flex-wrap gap-4 text-small">
            <a className="underline" href={`/api/clips/${clip.id}/sound.wav`} download>
              the clip (WAV)
            </a>
            <a className="underline" href={`/api/clips/${clip.id}/octaves.csv`} download>
              one-third octaves (CSV)
            </a>
            {!clip.struck && (
              <button
                type="button"
                className="cursor-pointer underline"
                onClick={() => strike.mutate({ id: clip.id, why: "struck" })}
              >
                strike this clip
              </button>
            )}
          </footer>
        </>
      )}
    </article>
  );
}

function Levels({ sound }: { sound: Sound }) {
  const unit = sound.calibrated ? "dBA" : "dB";
  const rows: [string, string, TermKey?][] = [
    ["mean", `${sound.laeq_dba.toFixed(1)} ${unit}`, sound.calibrated ? "dba" : "relative"],
    ["highest (F)", `${sound.lafmax_dba.toFixed(1)} ${unit}`],
    ["over, a tenth of the time", `${sound.la10_dba.toFixed(1)} ${unit}`, "passed"],
    ["over, nine tenths", `${sound.la90_dba.toFixed(1)} ${unit}`],
    ["unweighted", `${sound.lzeq_db.toFixed(1)} dB`],
    [
      "loudness (ISO 532-1)",
      sound.loudness_sone === null
        ? sound.calibrated
          ? "not of a spoilt or short clip"
          : "needs a level"
        : `${sound.loudness_sone.toFixed(2)} sone`,
      "sone",
    ],
  ];
  return (
    <dl className="flex flex-wrap gap-x-6 gap-y-1">
      {rows.map(([words, value, term]) => (
        <div key={words}>
          <dt className="text-fine text-faint">{term ? <Term t={term}>{words}</Term> : words}</dt>
          <dd className="font-mono">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function Flags({ sound, gainMoves }: { sound: Sound; gainMoves: boolean }) {
  if (!sound.flags.length && !gainMoves) return null;
  return (
    <ul className="rounded-md border border-warning p-2 text-small" aria-label="What spoils it">
      {gainMoves && <li>The browser kept its own gain control on: no level can be told of this clip. Tones and beats can.</li>}
      {sound.flags.map((f) => (
        <li key={`${f.code} ${f.from_s}`}>
          <strong>{CLIP_FLAGS[f.code as keyof typeof CLIP_FLAGS] ?? f.code}</strong>, {f.from_s.toFixed(1)} to {f.to_s.toFixed(1)}{" "}
          s: {f.detail}.
        </li>
      ))}
    </ul>
  );
}

function Tones({ sound }: { sound: Sound }) {
  return (
    <section className="grid gap-4 md:grid-cols-2">
      <div>
        <Head
          remark={
            <>
              <Term t="tone" />; prominent by ECMA-74
            </>
          }
        >
          Tones
        </Head>
        {sound.tones.length ? (
          <table className="w-full text-small">
            <tbody>
              {sound.tones.slice(0, 8).map((t) => (
                <tr key={t.frequency_hz} className="border-b hairline" data-tone={t.frequency_hz}>
                  <td className="py-1 font-mono whitespace-nowrap">{t.frequency_hz.toFixed(1)} Hz</td>
                  <td className="px-2 font-mono whitespace-nowrap">
                    {t.tone_to_noise_db >= 0 ? "+" : "−"}
                    {Math.abs(t.tone_to_noise_db).toFixed(1)} dB
                  </td>
                  <td>{t.prominent && <strong>prominent</strong>}</td>
                  <td className="text-faint">{t.of || "of nothing that turns here"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <p className="text-small">No tone stands out of the noise.</p>
        )}
      </div>
      <div>
        <Head remark={`slower than ${sound.slowest_beat_hz.toFixed(2)} Hz cannot be heard in ${sound.duration_s.toFixed(0)} s`}>
          <Term t="swell">Beats</Term>
        </Head>
        {sound.beats.length ? (
          <ul className="text-small">
            {sound.beats.map((b) => (
              <li key={`${b.frequency_hz} ${b.band_hz}`} data-beat={b.frequency_hz}>
                <span className="font-mono">{b.frequency_hz.toFixed(2)} Hz</span>, once in {(1 / b.frequency_hz).toFixed(1)} s:
                swells by <span className="font-mono">{b.depth_db.toFixed(1)} dB</span>
                {b.band_hz === null ? " as a whole" : ` about ${b.band_hz.toFixed(0)} Hz`}
              </li>
            ))}
          </ul>
        ) : (
          <p className="text-small">Nothing swells and fades by itself.</p>
        )}
      </div>
    </section>
  );
}

/** What ties full scale to a level. */
function TieForm({ clip, clips }: { clip: Clip; clips: readonly Clip[] }) {
  const { id } = useJob();
  const [tie, setTie] = useState<Tie>(clip.tie);
  const calibrators = clips.filter((c) => c.kind === "calibrator" && !c.struck && c.id !== clip.id);
  const [level, setLevel] = useState<number | null>(clip.tie_level ?? calibrators.at(-1)?.tie_level ?? null);
  const [by, setBy] = useState<number | null>(clip.by ?? calibrators.at(-1)?.id ?? null);
  const save = useTieClip(id);
  if (clip.gain_moves || clip.kind === "calibrator") return null;
  const same = tie === clip.tie && (tie === "none" || (level === clip.tie_level && (tie !== "calibrator" || by === clip.by)));
  return (
    <div className="flex flex-wrap items-end gap-3 rounded-md bg-paper p-2">
      <Select label="Tied to a level by" value={tie} choices={CLIP_TIES} onChange={(v) => setTie(v as Tie)} />
      {tie === "calibrator" && (
        <Select
          label="Which clip"
          value={String(by ?? "")}
          choices={calibrators.map((c) => ({ value: String(c.id), words: c.name }))}
          onChange={(v) => setBy(Number(v))}
          empty={calibrators.length ? undefined : "record one first"}
        />
      )}
      {tie !== "none" && (
        <NumberField
          label={tie === "meter" ? "The meter read, dBA" : "The calibrator gives, dB"}
          digits={1}
          value={level}
          {...within("ask.tie_db")}
          onCommit={setLevel}
        />
      )}
      <Button
        small
        disabled={same || save.isPending || (tie !== "none" && level === null)}
        onClick={() => save.mutate({ id: clip.id, tie, level_db: level, by: tie === "calibrator" ? by : null })}
      >
        Tie it
      </Button>
      {tie === "none" && (
        <span className="text-small text-faint">Only to be held against clips of the same recorder at the same gain.</span>
      )}
      {save.error && <p role="alert">{save.error.message}</p>}
    </div>
  );
}
