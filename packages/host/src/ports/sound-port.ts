import type { Capture, Captured } from '@porch/client';

/** What programs play on this computer. */
export interface SoundPort {
  /** Everything but what we play ourselves, in stereo, until it is stopped. While the sound server is away it is silent. */
  capturePrograms(take: (captured: Captured) => void): Pick<Capture, 'setBitrate' | 'stop'>;
}
