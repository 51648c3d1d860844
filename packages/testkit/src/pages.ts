import { emailOf, PASSWORD } from '@porch/demo';
import { chromium, type Browser, type BrowserContext, type Locator, type Page } from 'playwright-core';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { afterAll, expect, inject } from 'vitest';
import { House } from './house.ts';
import { sayWhenFailed } from './say-when-failed.ts';

const axeSource = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
export const sizes = { wide: { width: 1280, height: 800 }, narrow: { width: 390, height: 844 } } as const;

/** As long as everything else is waited for. */
export const PAGE_MS = 60_000;
/** Of a page that is read again when a test failed on it. */
const MOST_LINES_SAID = 300;

/** The one Chromium of the run, with a context for each person. */
export class Pages {
  readonly #browser: Browser;
  readonly #contexts: BrowserContext[] = [];

  private constructor(browser: Browser) {
    this.#browser = browser;
  }
  static async connect(): Promise<Pages> {
    return new Pages(await chromium.connect(inject('browserUrl')));
  }

  /** A window of somebody's own: no cookies of anybody else. Errors of the page fail the test through `problems`. */
  async window(
    size: { width: number; height: number } = sizes.wide,
    locale = 'en-GB',
  ): Promise<{ page: Page; problems: string[] }> {
    const context = await this.#browser.newContext({
      viewport: size,
      locale,
      acceptDownloads: true,
      reducedMotion: 'reduce',
    });
    this.#contexts.push(context);
    const page = await context.newPage();
    page.setDefaultTimeout(PAGE_MS);
    const problems: string[] = [];
    page.on('pageerror', (error) => problems.push(error.message));
    sayWhenFailed(async () => {
      if (page.isClosed()) return [];
      const lines = (await page.locator('body').innerText()).split('\n').filter((line) => line.trim());
      return [`${page.url()} said at last:`, ...lines.slice(0, MOST_LINES_SAID), ...problems];
    });
    return { page, problems };
  }

  async signedIn(house: House, name = 'Pim Aldersey', size: { width: number; height: number } = sizes.wide) {
    const opened = await this.window(size);
    await opened.page.goto(`${house.url}/console/`);
    await opened.page.getByLabel('Email', { exact: true }).fill(emailOf(name));
    await opened.page.getByLabel('Password').fill(PASSWORD);
    await opened.page.getByRole('button', { name: 'Sign in' }).click();
    await opened.page.getByRole('heading', { name: 'Waiting now' }).waitFor();
    return opened;
  }

  async close(): Promise<void> {
    for (const context of this.#contexts) await context.close();
    await this.#browser.close();
  }
}

/** What WCAG 2.2 AA finds wrong with a page as it stands now, one line each. */
async function accessibilityProblems(page: Page): Promise<string[]> {
  await page.evaluate(axeSource);
  return page.evaluate(async () => {
    const { axe } = window as unknown as {
      axe: {
        run(
          root: Document,
          options: object,
        ): Promise<{ violations: { id: string; nodes: { html: string; failureSummary?: string }[] }[] }>;
      };
    };
    const { violations } = await axe.run(document, {
      runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
    });
    return violations.flatMap((v) =>
      v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)} ${n.failureSummary?.split('\n')[1] ?? ''}`),
    );
  });
}

/** Nothing sticks out to the right: a page that scrolls sideways is broken on a telephone. */
const sticksOut = (page: Page): Promise<boolean> =>
  page.evaluate(() => document.documentElement.scrollWidth > window.innerWidth + 1);

/** Bettina Crole comes in by a link, as whoever called, and begins. */
export async function beginByLink(page: Page, link: string): Promise<void> {
  await page.goto(link);
  await page.getByRole('button', { name: 'Continue' }).click();
  await page.getByRole('button', { name: 'I called them' }).click();
  await page.getByLabel('Your name').fill('Bettina Crole');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
}

/** A page as it should always be: nothing that axe finds, and nothing that sticks out. */
export async function clean(page: Page, what: string): Promise<void> {
  expect(await accessibilityProblems(page), `accessibility of ${what}`).toEqual([]);
  expect(await sticksOut(page), `${what} sticks out`).toBe(false);
}

/** The same at the two sizes that every page is made for. */
export async function cleanAtBothSizes(page: Page, what: string): Promise<void> {
  for (const size of [sizes.narrow, sizes.wide]) {
    await page.setViewportSize(size);
    await clean(page, `${what}, ${size.width}`);
  }
}

/** What a canvas shows, also one that belongs to a worker: words 0xRRGGBB. */
export async function canvasPixels(canvas: Locator): Promise<{ width: number; height: number; pixels: Uint32Array }> {
  const { width, height, text } = await canvas.evaluate((element) => {
    const { width, height } = element as HTMLCanvasElement;
    const copy = new OffscreenCanvas(width, height).getContext('2d', { alpha: false });
    copy?.drawImage(element as HTMLCanvasElement, 0, 0);
    const data = copy?.getImageData(0, 0, width, height).data ?? [];
    let text = '';
    for (let i = 0; i < data.length; i += 4)
      text += String.fromCharCode(data[i] ?? 0, data[i + 1] ?? 0, data[i + 2] ?? 0);
    return { width, height, text: btoa(text) };
  });
  const bytes = Buffer.from(text, 'base64');
  return { width, height, pixels: Uint32Array.from({ length: width * height }, (_, i) => bytes.readUIntBE(i * 3, 3)) };
}
/** Whether two pictures are the same, pixel for pixel. */
export const samePixels = (a: Uint32Array, b: Uint32Array): boolean =>
  a.length === b.length && a.every((p, i) => p === b[i]);

/** A service of its own and the browser, for all tests of one file; closed after the last of them. */
export async function houseWithPages(
  options: Parameters<typeof House.open>[0] = {},
): Promise<{ readonly house: House; readonly pages: Pages }> {
  const house = await House.open(options);
  afterAll(() => house.close());
  const pages = await Pages.connect();
  afterAll(() => pages.close());
  return { house, pages };
}
