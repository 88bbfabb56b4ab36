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
