/** Minutes as people say them at the bench. */
export function hours(minutes: number): string {
  const whole = Math.round(minutes);
  return whole < 60 ? `${whole} min` : `${Math.floor(whole / 60)} h ${String(whole % 60).padStart(2, "0")}`;
}
