import type { DesktopRow } from '@porch/wire';

/** Everybody who is signed in at this computer, and a bell at their desktops where this computer's owner put one. */
export interface DesktopsPort {
  /** The one in front first. */
  list(): Promise<readonly DesktopRow[]>;
  /** Somebody signed in or out, or another desktop is in front. */
  onChanged(listener: () => void): () => void;
  /**
   * Asks whoever is at that desktop whether they come in by this link. Once the signal is aborted nobody is asked there any
   * longer; whoever has said yes by then comes in. `begun` is called once they are asked. Rejects with RingRefused.
   */
  ring(desktop: string, link: string, signal: AbortSignal, begun: () => void): Promise<'came' | 'no' | 'not-answered'>;
}

/** Why nobody was asked there, in words that technicians read. */
export class RingRefused extends Error {}
