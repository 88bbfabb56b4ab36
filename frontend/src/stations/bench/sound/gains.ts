/** A sound to listen to: `level` and `offset` of full scale in dB, `peak` of its samples; `tied`: its level is known. */
export type Sounding = { level: number; offset: number; tied: boolean; peak: number };

const HEADROOM = 0.7; // of full scale, at the loudest sample of both

/**
 * What two are multiplied by so that their difference is the one there is (or none, brought to the same level), and nothing is cut off.
 * One that is tied to a level beside one that is not has no common gain: each as it is.
 */
export function gains(a: Sounding, b: Sounding, matched: boolean): [number, number] {
  const fair = a.tied === b.tied;
  const db = (own: Sounding, other: Sounding) =>
    fair
      ? (own.tied ? own.offset - Math.max(own.offset, other.offset) : 0) + (matched ? Math.min(other.level - own.level, 0) : 0)
      : 0;
  const raw = [10 ** (db(a, b) / 20), 10 ** (db(b, a) / 20)] as const;
  const loudest = Math.max(raw[0] * a.peak, raw[1] * b.peak);
  const common = loudest > 0 ? HEADROOM / loudest : 1;
  return [raw[0] * common, raw[1] * common];
}
