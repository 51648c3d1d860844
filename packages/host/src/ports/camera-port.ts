import type { CameraPicture } from '@porch/client';
import type { CameraIs } from '@porch/wire';

/** A camera that is open. */
export interface OpenCamera {
  readonly hasLight: boolean;
  readonly isLightOn: boolean;
  /** Rejects when the light does not do as it is told. */
  setLight(isOn: boolean): Promise<void>;
  /** A fresh picture whose longer side is at most so many pixels, as far as the camera has such. */
  next(longestPixels: number): Promise<CameraPicture>;
  /** One in the fullest size it has, without anything that says where or when. */
  fullSize(): Promise<CameraPicture>;
  close(): void;
}

/** What a page shows of it. */
export interface CameraShown {
  readonly is: CameraIs | undefined;
  /** By their seats: who is shown it. */
  readonly viewers: readonly number[];
  readonly hasLight: boolean;
  readonly isLightOn: boolean;
  /** How many single pictures were taken since it was opened. */
  readonly taken: number;
}

/** What the person here wants: what failed tried again, or the light on or off. */
export type CameraWish = 'try-again' | 'light';

/** The cameras of this computer. */
export interface CameraPort {
  /** Rejects when there is none, or it cannot be opened. `onGone`: it went while it was open. */
  open(onGone: () => void): Promise<OpenCamera>;
  show?(now: CameraShown): void;
  onWish?(listener: (wish: CameraWish) => void): () => void;
}
