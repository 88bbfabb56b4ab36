import { EVENTS, HEARD, OF_ITSELF, SEEN, said } from "@/shared/words/words";

const TAGS: Readonly<Record<string, string>> = {
  ...OF_ITSELF,
  ...Object.fromEntries([...EVENTS, ...SEEN, ...HEARD].map((x) => [x.value, x.words])),
};
export const tagWords = (tag: string) => said(TAGS, tag);

/** 1164 as 19:24. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds));
  const hours = Math.floor(whole / 3600);
  const pair = (n: number) => String(n).padStart(2, "0");
  return `${hours ? `${hours}:` : ""}${pair(Math.floor(whole / 60) % 60)}:${pair(whole % 60)}`;
}

type Judged = { name: string; settled: boolean | null; minutes_left: number | null };

/** Once every row that is shown has settled: the channels without a row that have not, the one that takes longest first. */
export function stillOpen<C extends Judged>(channels: readonly C[], shown: readonly C[]): C[] {
  if (shown.some((c) => c.settled === false)) return [];
  return channels
    .filter((c) => c.settled === false && !shown.includes(c))
    .sort((a, b) => Number(b.minutes_left) - Number(a.minutes_left));
}
