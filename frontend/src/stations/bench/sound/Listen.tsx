import { useEffect, useRef, useState } from "react";
import { type Clip, useForecastSounds } from "@/shared/api/sounds";
import { useJob, useSaving } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { CAUTIONS } from "@/shared/words/words";
import { levelWords } from "./ClipList";

const QUIET = 0.3;
type Source = { key: string; words: string; url: string; level: number; offset: number; tied: boolean };

/** Two by ear, recorded or as forecast, at the same gain or brought to the same level: what is louder is turned down, nothing is turned up. */
export function Listen({ clips }: { clips: readonly Clip[] }) {
  const { id, document } = useJob();
  const { save } = useSaving(); // the server listens to what is stored
  const forecasts = useForecastSounds(id, [document.layouts, save]);
  const recorded: Source[] = clips
    .filter((c) => c.state === "done" && !c.struck && c.kind !== "calibrator" && c.level !== null)
    .map((c) => ({
      key: `clip ${c.id}`,
      words: `${c.layout}, recorded: ${c.name}, ${levelWords(c)}`,
      url: `/api/clips/${c.id}/sound.wav`,
      level: c.level as number,
      offset: c.offset_db,
      tied: c.calibrated,
    }));
  const made: Source[] = (forecasts.data ?? []).map((f) => ({
    key: `forecast ${f.layout}`,
    words: `${f.layout}, made from its forecast: ${f.level_dba.toFixed(1)} dBA`,
    url: `/api/jobs/${id}/forecast-sound.wav?layout=${encodeURIComponent(f.layout)}`,
    level: f.level_dba,
    offset: f.offset_db,
    tied: true,
  }));
  const all = [...recorded, ...made];
  const [keys, setKeys] = useState<[string | null, string | null]>([null, null]);
  const [matched, setMatched] = useState(false);
  const [volume, setVolume] = useState(QUIET);
  const [playing, setPlaying] = useState<0 | 1 | null>(null);
  const player = useRef<HTMLAudioElement>(null);
  const first = all.find((s) => s.key === keys[0]) ?? all.at(-2);
  const second = all.find((s) => s.key === keys[1]) ?? all.at(-1);
  const pair = [first, second] as const;
  const fair = first !== undefined && second !== undefined && first.tied === second.tied;
  const gain = (i: 0 | 1) => {
    const own = pair[i];
    const other = pair[i === 0 ? 1 : 0];
    if (!own || !other || !fair) return 1;
    const db =
      (own.tied ? own.offset - Math.max(own.offset, other.offset) : 0) + (matched ? Math.min(other.level - own.level, 0) : 0);
    return 10 ** (Math.min(db, 0) / 20);
  };
  useEffect(() => {
    if (player.current && playing !== null) player.current.volume = Math.min(volume * gain(playing), 1);
  });
  const play = (i: 0 | 1) => {
    const own = pair[i];
    if (!player.current || !own) return;
    player.current.src = own.url;
    player.current.volume = Math.min(volume * gain(i), 1);
    setPlaying(i);
    void player.current.play().catch(() => setPlaying(null));
  };
  const stop = () => {
    player.current?.pause();
    setPlaying(null);
  };
  if (all.length < 2) return <p className="text-small text-faint">Two are needed: draw a second layout, or record a clip.</p>;
  return (
    <section
      className="flex flex-col gap-4"
      data-listen={playing ?? "off"}
      data-gains={`${gain(0).toFixed(3)} ${gain(1).toFixed(3)}`}
    >
      <Head remark="made from a forecast: sources' levels and blade lines, no rattle and no resonance">Two by ear</Head>
      <div className="grid gap-3 md:grid-cols-2">
        {([0, 1] as const).map((i) => (
          <div key={i} className="flex flex-col gap-2">
            <Select
              label={i ? "Second" : "First"}
              wide
              value={pair[i]?.key ?? ""}
              choices={all.map((s) => ({ value: s.key, words: s.words }))}
              onChange={(v) => setKeys(i ? [keys[0], v] : [v, keys[1]])}
            />
            <Button strong={playing === i} onClick={() => play(i)}>
              {playing === i ? "Playing" : `Play the ${i ? "second" : "first"}`}
            </Button>
          </div>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-4">
        <label className="flex items-center gap-2 text-small">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={matched}
            disabled={!fair}
            onChange={(e) => setMatched(e.target.checked)}
          />
          brought to the same level, the louder turned down
        </label>
        <label className="flex items-center gap-2 text-small">
          Volume
          <input
            type="range"
            className="range range-xs w-40"
            min={0}
            max={1}
            step={0.01}
            value={volume}
            onChange={(e) => setVolume(Number(e.target.value))}
          />
        </label>
        <Button onClick={stop} disabled={playing === null}>
          Stop
        </Button>
      </div>
      {!fair && (
        <p className="text-small text-warning">
          One of them is tied to a level and the other is not: how loud they are beside each other is not known.
        </p>
      )}
      <p className="text-small text-faint">
        At one gain: the difference you hear is the difference there is. Begin at a low volume.
      </p>
      <Caution>{CAUTIONS.loud}</Caution>
      {/* biome-ignore lint/a11y/useMediaCaption: the sound of fans has no words */}
      <audio ref={player} onEnded={() => setPlaying(null)} />
    </section>
  );
}
