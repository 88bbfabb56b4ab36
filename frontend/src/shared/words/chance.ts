/** A chance (0 to 1) in per cent; none is ever quite certain. */
export function chanceWords(chance: number): string {
  if (chance > 0.99) return "over 99 %";
  return chance < 0.01 ? "under 1 %" : `${Math.round(100 * chance)} %`;
}
