import type { LiveConnection, PicturePort } from '@porch/client';

/** What stands around the picture, in the customer's language. */
export interface ShownScreenWords {
  readonly title: string;
  /** Before the first picture. */
  readonly waiting: string;
  readonly close: string;
  readonly original: string;
  readonly fit: string;
  old(seconds: number): string;
}

export interface ShownScreen extends PicturePort {
  /** The picture is out of sight when this returns, and what was kept of it is gone. */
  close(): void;
}

/**
 * Where the person here sees what a technician shows of their own screen: a window of this program, or a place in a page.
 * It takes the keyboard from nobody, and is never in the picture that technicians see: they would see their own in it.
 */
export interface ShownScreenPort {
  open(
    shown: {
      readonly connection: LiveConnection;
      /** Whose picture it is. */
      readonly seat: number;
      readonly words: ShownScreenWords;
    },
    on: {
      /** The person here closed it. */
      closed(): void;
      /** It cannot be shown, or not any longer. */
      failed(error: unknown): void;
      /** A key of the source is missing. */
      needKey(): void;
    },
  ): ShownScreen;
}
