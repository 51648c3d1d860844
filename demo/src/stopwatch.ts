/** As a stopwatch would be read aloud. */
export const inSeconds = (ms: number): string => `${(ms / 1_000).toFixed(1)} s`;
