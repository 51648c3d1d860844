import type { BrowserSound } from '@porch/pages/sound';

let made: Promise<BrowserSound> | undefined;

/** The speakers and the microphone of this page, fetched when somebody is first to be heard. */
export function pageSound(onTrouble: (error: unknown) => void): Promise<BrowserSound> {
  made ??= import('@porch/pages/sound')
    .then(({ BrowserSound, canPlay }) => {
      if (!canPlay) throw new CannotPlay();
      return new BrowserSound(onTrouble);
    })
    .catch((error: unknown) => {
      made = undefined; // The next press tries again.
      throw error;
    });
  return made;
}

export class CannotPlay extends Error {}
