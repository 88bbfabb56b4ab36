import { useEffect, useRef, useState } from "react";

const STORE = "oventa-bench-sound";

/** Short tones made by the browser itself: one for "act", two for "settled", a low row of them for an alarm. */
const TONES: Record<string, [number, number][]> = {
  act: [[660, 0.12]],
  hands_off: [[440, 0.1]],
  settled: [
    [660, 0.14],
    [880, 0.2],
  ],
  end: [
    [880, 0.14],
    [660, 0.14],
    [880, 0.25],
  ],
  alarm: [
    [330, 0.25],
    [290, 0.25],
    [330, 0.25],
    [290, 0.35],
  ],
};

let context: AudioContext | null = null;

const wanted = () => localStorage.getItem(STORE) !== "off";

/** Sounds a cue, unless sound is off. */
export function sound(cue: string) {
  const tones = TONES[cue];
  if (!tones || !wanted()) return;
  try {
    context ??= new AudioContext();
    let at = context.currentTime + 0.02;
    for (const [hertz, seconds] of tones) {
      const tone = context.createOscillator();
      const gain = context.createGain();
      tone.frequency.value = hertz;
      gain.gain.setValueAtTime(0.12, at);
      gain.gain.exponentialRampToValueAtTime(0.001, at + seconds);
      tone.connect(gain).connect(context.destination);
      tone.start(at);
      tone.stop(at + seconds);
      at += seconds + 0.04;
    }
  } catch {
    // a browser without sound shows the same by words
  }
}

/** Sounds a cue when it changes; whether at all is the person's choice and kept. */
export function useCue(cue: string, alarms: number) {
  const [on, setOn] = useState(wanted);
  const last = useRef({ cue, alarms });
  useEffect(() => {
    if (alarms > last.current.alarms) sound("alarm");
    else if (cue !== last.current.cue) sound(cue);
    last.current = { cue, alarms };
  }, [cue, alarms]);
  const change = (value: boolean) => {
    localStorage.setItem(STORE, value ? "on" : "off");
    setOn(value);
    sound("act");
  };
  return { on, change };
}
