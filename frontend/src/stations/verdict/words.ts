import type { Pair } from "@/shared/api/client";
import type { Verdict } from "@/shared/api/hooks";
import { HIGHER_IS_BETTER, LEADING_CHANNELS, PAIR_WORDS, SIGNS } from "@/shared/words/words";

export type Word = Pair["word"];

export const WORDS = PAIR_WORDS;

/** A shape beside each word, so that neither colour nor order carries it alone. */
export const SIGN = SIGNS;

/** A pair as said of `of`: difference to the other, word turned round where needed. */
export function saidOf(pairs: Pair[], of: string, other: string, channel: string) {
  const pair = pairs.find((p) => p.channel === channel && ((p.a === of && p.b === other) || (p.a === other && p.b === of)));
  if (!pair) return null;
  const flip = pair.a === of;
  const turned: Record<Word, Word> = {
    better: "worse",
    worse: "better",
    no_difference: "no_difference",
    cannot_tell: "cannot_tell",
  };
  return {
    pair,
    difference: pair.difference_k === null ? null : flip ? -pair.difference_k : pair.difference_k,
    band: pair.expanded_uncertainty_k,
    word: flip ? turned[pair.word] : pair.word,
  };
}

/** The figures a layout is chosen by, in the order they are shown, where any layout has them. */
export const leading = (v: Verdict) =>
  (LEADING_CHANNELS as readonly string[]).filter((c) => v.figures.some((f) => f.channel === c));

export const figureOf = (v: Verdict, layout: string, channel: string) =>
  v.figures.find((f) => f.layout === layout && f.channel === channel);

/** The channel that tells of a part which stood at its limit. */
export const powerOf = (channel: string) => `${channel.split("_")[0]}_power_w`;

export const unitOf = (channel: string, unit: string) => (channel === "sound_dba" ? "dB" : unit);

/** Whether less is better of a channel. */
export const rising = (channel: string) => !(HIGHER_IS_BETTER as readonly string[]).includes(channel);

/** Best or worst first; what has no figure, or one of a part at its limit, comes last either way. */
export function ordered(v: Verdict, names: string[], { by, worstFirst }: { by: string; worstFirst: boolean }): string[] {
  const sign = rising(by) !== worstFirst ? 1 : -1;
  const ranked = names.map((name) => {
    const f = figureOf(v, name, by);
    return { name, rank: f && !f.at_limit ? sign * f.value : Number.POSITIVE_INFINITY };
  });
  return ranked.sort((a, b) => (a.rank === b.rank ? 0 : a.rank - b.rank)).map((x) => x.name);
}
