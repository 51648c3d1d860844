/** Everywhere: 48 kHz in frames of 20 ms, samples from -1 to 1, of two channels one after the other. */
export const SAMPLE_RATE_HZ = 48_000;
export const FRAME_MS = 20;
export const FRAME_SAMPLES = (SAMPLE_RATE_HZ * FRAME_MS) / 1000;
/** A packet of two bytes or less says that nothing changes (RFC 6716, section 2.1.9): it need not be sent. */
export const NOTHING_NEW_BYTES = 2;
export type ChannelCount = 1 | 2;
export const samplesIn = (ms: number): number => Math.round((SAMPLE_RATE_HZ * ms) / 1000);

/** How loud it is at its loudest, from 0 to 1. */
export function peakOf(samples: Float32Array): number {
  let peak = 0;
  for (const sample of samples) peak = Math.max(peak, Math.abs(sample));
  return Math.min(1, peak);
}

/** Keeps a sum of voices within what can be played: exact up to 0.8, bent towards 1 above. */
export function limit(samples: Float32Array): void {
  for (let i = 0; i < samples.length; i++) {
    const sample = samples[i] ?? 0;
    const size = Math.abs(sample);
    if (size > 0.8) samples[i] = Math.sign(sample) * (0.8 + 0.2 * Math.tanh((size - 0.8) / 0.2));
  }
}
