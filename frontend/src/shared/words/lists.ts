type List = readonly unknown[] | null | undefined;

/** How many there are; none of a list that is not there. */
export const count = (list: List): number => (list ? list.length : 0);
export const has = (list: List): boolean => count(list) > 0;

/** A figure to reckon or draw with, where one that is not there takes no room; never to be shown, which is for units to do. */
export const num = (value: number | null | undefined): number => value ?? 0;

/** Runs, sweeps and runs of other jobs behind a forecast. */
export const measurements = (n: number): string => `${n} ${n === 1 ? "measurement" : "measurements"}`;
