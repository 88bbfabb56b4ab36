import { useEffect, useRef, useState } from "react";
import type { Clip } from "@/shared/api/sounds";
import { Button, Head, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { CAUTIONS } from "@/shared/words/words";
import { levelWords } from "./ClipList";

const QUIET = 0.3;

/** Two clips by ear, at the same gain or brought to the same level; what is louder is turned down, nothing is ever turned up. */
export function Listen({ clips }: { clips: readonly Clip[] }) {
  const good = clips.filter((c) => c.state === "done" && !c.struck && c.kind !== "calibrator");
  const words = (c: Clip) => `${c.layout}: ${c.name}, ${levelWords(c)}`;
  const [ids, setIds] = useState<[number | null, number | null]>([good.at(-2)?.id ?? null, good.at(-1)?.id ?? null]);
  const [matched, setMatched] = useState(false);
  const [volume, setVolume] = useState(QUIET);
  const [playing, setPlaying] = useState<0 | 1 | null>(null);
  const player = useRef<HTMLAudioElement>(null);
  const pair = ids.map((id) => good.find((c) => c.id === id));
  const [a, b] = pair;
  const fair = a && b && a.calibrated === b.calibrated;
  const gain = (i: 0 | 1) => {
    const own = pair[i]?.level ?? 0;
    const other = pair[1 - i]?.level ?? own;
    return matched && fair ? 10 ** (Math.min(other - own, 0) / 20) : 1;
  };
  useEffect(() => {
    if (player.current && playing !== null) player.current.volume = Math.min(volume * gain(playing), 1);
  });
  const play = (i: 0 | 1) => {
    const clip = pair[i];
    if (!player.current || !clip) return;
    const at = player.current.currentTime;
    player.current.src = `/api/clips/${clip.id}/sound.wav`;
    player.current.volume = Math.min(volume * gain(i), 1);
    player.current.currentTime = at;
    setPlaying(i);
    void player.current.play();
  };
  const stop = () => {
    player.current?.pause();
    setPlaying(null);
  };
  if (good.length < 2)
    return <p className="text-small text-faint">Two clips are needed: of two layouts, or of one before and after a change.</p>;
  return (
    <section className="flex flex-col gap-4" data-listen={playing ?? "off"}>
      <Head remark="recorded sound, not a forecast">Two by ear</Head>
      <div className="grid gap-3 md:grid-cols-2">
        {([0, 1] as const).map((i) => (
          <div key={i} className="flex flex-col gap-2">
            <Select
              label={i ? "Second" : "First"}
              wide
              value={String(ids[i] ?? "")}
              choices={good.map((c) => ({ value: String(c.id), words: words(c) }))}
              onChange={(v) => setIds(i ? [ids[0], Number(v)] : [Number(v), ids[1]])}
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
      {!fair && a && b && (
        <p className="text-small text-warning">
          One of them is tied to a level and the other is not: how loud they are beside each other is not known.
        </p>
      )}
      <Caution>{CAUTIONS.loud}</Caution>
      {/* biome-ignore lint/a11y/useMediaCaption: the sound of fans has no words */}
      <audio ref={player} onEnded={() => setPlaying(null)} />
    </section>
  );
}
