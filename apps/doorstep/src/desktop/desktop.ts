import type { BannerPort, HandsPort, HidingPort, PersonPort, ScreenSource } from '@porch/host';

/** A desktop that has all that Doorstep's abilities ask for. Adapters: real X11; others hand in what they have. */
export interface Desktop extends ScreenSource, PersonPort, BannerPort, HandsPort, HidingPort {
  readonly name: string;
  onGone(listener: (why: Error) => void): void;
  close(): Promise<void>;
}
