import { chromium, type Browser } from 'playwright-core';

/** Debian's Chromium, without a window. */
export const openChromium = (more: readonly string[] = []): Promise<Browser> =>
  chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', ...more],
  });
