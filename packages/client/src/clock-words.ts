/** "4:07": minutes and seconds. */
const minutesAndSeconds = (seconds: number): string =>
  `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;

/** What is left of a time; 0:00 only once it is over. */
export const clockLeft = (leftMs: number): string => minutesAndSeconds(Math.max(0, Math.ceil(leftMs / 1_000)));
/** How long something has lasted. */
export const clockSince = (ms: number): string => minutesAndSeconds(Math.max(0, Math.floor(ms / 1_000)));
