import { FRAME_MS, peakOf } from './format.ts';

/** -60 dB of full scale: below it nobody hears anything beside a fan. */
const SILENT_PEAK = 0.001;
/** Words end softly, and music has rests. */
const HANG_MS = 240;

/** Silence is not sent: what comes after it is the first of something new. */
export class SilenceGate {
  #silentMs = HANG_MS;

  /** `isFirst`: silence was left out before it. */
  take(frame: Float32Array): { readonly isSilent: boolean; readonly isFirst: boolean; readonly peak: number } {
    const peak = peakOf(frame);
    const wasSilent = this.#silentMs >= HANG_MS;
    this.#silentMs = peak < SILENT_PEAK ? Math.min(HANG_MS, this.#silentMs + FRAME_MS) : 0;
    const isSilent = this.#silentMs >= HANG_MS;
    return { isSilent, isFirst: wasSilent && !isSilent, peak };
  }
}
