import { useCallback, useEffect, useRef, useState } from "react";
import { type Clip, useForecastSounds, wave } from "@/shared/api/sounds";
import { useJob, useSaving } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { CAUTIONS } from "@/shared/words/words";
import { levelWords } from "./ClipList";
import { gains } from "./gains";

const QUIET = 0.3;
type Source = { key: string; words: string; url: string; level: number; offset: number; tied: boolean };

/** Two by ear, recorded or as forecast, at the same gain or brought to the same level: the louder one is turned down. */
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
  const first = all.find((s) => s.key === keys[0]) ?? all.at(-2);
  const second = all.find((s) => s.key === keys[1]) ?? all.at(-1);
  const pair = [first, second] as const;
  const fair = first !== undefined && second !== undefined && first.tied === second.tied;
  const [fault, setFault] = useState("");
  const [heard, setHeard] = useState<[number, number] | null>(null);
  const audio = useRef<Playing | null>(null);
  const shut = useCallback(() => {
    void audio.current?.context.close();
    audio.current = null;
  }, []);
  const pairKey = `${first?.key} ${second?.key} ${matched}`;
  // Another pair, or another way of listening to it, begins anew.
  useEffect(() => {
    void pairKey;
    return () => {
      shut();
      setPlaying(null);
    };
  }, [pairKey, shut]);
  useEffect(() => {
    if (audio.current) audio.current.volume.gain.value = volume;
  }, [volume]);
  const play = async (i: 0 | 1) => {
    if (!first || !second) return;
    setFault("");
    try {
      audio.current ??= await opened([first, second], matched, volume);
      setHeard(audio.current.gains);
      audio.current.play(i);
      setPlaying(i);
    } catch (error) {
      setFault(error instanceof Error ? error.message : String(error));
    }
  };
  const stop = () => {
    shut();
    setPlaying(null);
  };
  if (all.length < 2) return <p className="text-small text-faint">Two are needed: draw a second layout, or record a clip.</p>;
  return (
    <section
      className="flex flex-col gap-4"
      data-listen={playing ?? "off"}
      data-gains={heard?.map((g) => g.toFixed(4)).join(" ")}
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
            <Button strong={playing === i} onClick={() => void play(i)}>
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
      {fault && <p role="alert">Nothing to hear: {fault}</p>}
      <p className="text-small text-faint">
        At one gain: the difference you hear is the difference there is. Both are raised alike until the loudest sample nearly
        fills the scale; how loud that is, your volume says. Begin low.
      </p>
      <Caution>{CAUTIONS.loud}</Caution>
    </section>
  );
}

type Playing = { context: AudioContext; volume: GainNode; gains: [number, number]; play: (i: 0 | 1) => void };

/** Both sounds at hand, in a loop, one heard at a time. */
async function opened(pair: [Source, Source], matched: boolean, volume: number): Promise<Playing> {
  const context = new AudioContext();
  const [a, b] = await Promise.all(
    pair.map(async (s) => {
      const bytes = await wave(s.url);
      if (!bytes) throw new Error(`${s.words} is not to be had`);
      return context.decodeAudioData(bytes);
    }),
  );
  if (!a || !b) throw new Error("nothing was recorded");
  const peak = (x: AudioBuffer) => x.getChannelData(0).reduce((most, v) => Math.max(most, Math.abs(v)), 0);
  const both = gains({ ...pair[0], peak: peak(a) }, { ...pair[1], peak: peak(b) }, matched);
  const out = new GainNode(context, { gain: volume });
  out.connect(context.destination);
  const doors = [a, b].map((buffer, i) => {
    const door = new GainNode(context, { gain: 0 });
    const source = new AudioBufferSourceNode(context, { buffer, loop: true });
    source
      .connect(new GainNode(context, { gain: both[i] }))
      .connect(door)
      .connect(out);
    source.start();
    return door;
  });
  const play = (i: 0 | 1) => {
    doors.forEach((door, k) => {
      door.gain.setTargetAtTime(k === i ? 1 : 0, context.currentTime, 0.02);
    });
    void context.resume();
  };
  return { context, volume: out, gains: both, play };
}
