import type { Browser } from 'playwright-core';
import { BenchHouse } from './bench-house.ts';
import { openChromium } from './chromium.ts';
import { quantile } from './numbers.ts';

/** The line of a poor mobile network: what it carries, and how long its answers take at the least. */
const [DOWN_BITS_PER_SECOND, UP_BITS_PER_SECOND, ROUND_TRIP_MS] = [1_600_000, 750_000, 150];
const ROUNDS = 7;
const places = { 'front door': '/', console: '/console/sign-in' } as const;

/** First paint with something in it, over a slow line, with an empty cache; beside it the same without compression. */
export async function paintBench(options: { json?: boolean }): Promise<void> {
  const house = await BenchHouse.open();
  const browser = await openChromium();
  try {
    const results = [];
    for (const [page, path] of Object.entries(places)) {
      const times = { ours: [] as number[], plain: [] as number[] };
      // In turns, so that whatever else this machine does falls on both.
      for (let round = 0; round < ROUNDS; round++) {
        times.ours.push(await firstPaintMs(browser, house.url + path, {}));
        times.plain.push(await firstPaintMs(browser, house.url + path, { 'accept-encoding': 'identity' }));
      }
      const [ours, plain] = [quantile(times.ours, 0.5) ?? 0, quantile(times.plain, 0.5) ?? 0];
      results.push({ page, firstPaintMsMedian: ours, uncompressedMsMedian: plain, ratio: ours / plain });
    }
    if (options.json) process.stdout.write(`${JSON.stringify(results, undefined, 2)}\n`);
    else
      for (const { page, firstPaintMsMedian, uncompressedMsMedian, ratio } of results)
        process.stdout.write(
          `${page.padEnd(12)}${firstPaintMsMedian.toFixed(0)} ms to the first paint, ${uncompressedMsMedian.toFixed(0)} ms without compression (${ratio.toFixed(2)})\n`,
        );
  } finally {
    await browser.close();
    await house.close();
  }
}

async function firstPaintMs(browser: Browser, url: string, headers: Record<string, string>): Promise<number> {
  const context = await browser.newContext({ extraHTTPHeaders: headers });
  try {
    const page = await context.newPage();
    const devtools = await context.newCDPSession(page);
    await devtools.send('Network.enable');
    await devtools.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: ROUND_TRIP_MS,
      downloadThroughput: DOWN_BITS_PER_SECOND / 8,
      uploadThroughput: UP_BITS_PER_SECOND / 8,
    });
    await page.goto(url);
    const painted = await page.waitForFunction(
      () => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0,
    );
    return await painted.jsonValue();
  } finally {
    await context.close();
  }
}
