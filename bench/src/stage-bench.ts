import { loadExtensions, XConnection } from '@porch/doorstep';
import { emailOf, PASSWORD } from '@porch/demo';
import type { Page } from 'playwright-core';
import { BenchHouse, lookAndWork, sleep } from './bench-house.ts';
import { openChromium } from './chromium.ts';
import { quantile } from './numbers.ts';

const [WIDTH, HEIGHT] = [1920, 1080];
const BLOCKS = 4;
const KEYS_PER_BLOCK = 25;
const GAP_MS = 90;
const LOST_MS = 1_000;
/** Key codes of X11 letters on every PC keyboard: the second row of keys. */
const FIRST_KEYCODE = 24;
const KEYCODES = 9;
const DAMAGE_NON_EMPTY = 3;

/** From a key pressed at the stage to changed pixels on the canvas, beside what the program itself needs on that display. */
export async function stageBench(options: { json?: boolean }): Promise<void> {
  const house = await BenchHouse.open();
  const browser = await openChromium();
  try {
    const rest = await house.signedIn();
    const started = await rest.start({});
    const { desktop, person } = await house.withDoorstep(started.link, WIDTH, HEIGHT);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(watchTheCanvas);
    await page.goto(`${house.url}/console/`);
    await page.getByLabel('Email', { exact: true }).fill(emailOf('Pim Aldersey'));
    await page.getByLabel('Password').fill(PASSWORD);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByRole('heading', { name: 'Waiting now' }).waitFor();
    await page.goto(`${house.url}/console/session/${started.session.id}`);
    for (const permission of lookAndWork) {
      await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
      await person.answer(true, 1_200);
      await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
    }
    const canvas = page.locator('[data-test=stage-canvas]');
    await page.locator('[data-test=work]').click();
    await page.getByRole('button', { name: 'Hands off' }).waitFor();
    const box = await canvas.boundingBox();
    if (!box) throw new Error('there is no stage');
    await page.mouse.click(box.x + (300 * box.width) / WIDTH, box.y + (400 * box.width) / WIDTH);
    await sleep(1_000);

    const own = await ownTimes(desktop.display);
    const times = { stage: [] as number[], program: [] as number[] };
    for (let block = 0; block < BLOCKS; block++) {
      for (let n = 0; n < KEYS_PER_BLOCK; n++) times.program.push(await own.press(n));
      for (let n = 0; n < KEYS_PER_BLOCK; n++) times.stage.push(await pressAtStage(page, n));
    }
    own.close();
    person.close();
    const result = {
      stageMsMedian: quantile(times.stage, 0.5) ?? 0,
      stageMsP95: quantile(times.stage, 0.95) ?? 0,
      programMsMedian: quantile(times.program, 0.5) ?? 0,
      programMsP95: quantile(times.program, 0.95) ?? 0,
    };
    const more = result.stageMsMedian - result.programMsMedian;
    process.stdout.write(
      options.json
        ? `${JSON.stringify({ ...result, moreMs: more }, undefined, 2)}\n`
        : `key at the stage → canvas ${result.stageMsMedian.toFixed(1)} / ${result.stageMsP95.toFixed(1)} ms; the program alone ${result.programMsMedian.toFixed(1)} / ${result.programMsP95.toFixed(1)} ms (median / p95); ours ${more.toFixed(1)} ms\n`,
    );
  } finally {
    await browser.close();
    await house.close();
  }
}

/** Runs in the page before its own code: when a key came, and when the worker had painted after it. */
function watchTheCanvas(): void {
  const seen = window as unknown as { pressedAt: number; paintedAfterMs: number };
  const Plain = window.Worker;
  window.Worker = class extends Plain {
    constructor(...args: ConstructorParameters<typeof Worker>) {
      super(...args);
      this.addEventListener('message', ({ data }: MessageEvent<{ type?: string }>) => {
        if (data.type === 'painted' && seen.pressedAt && !seen.paintedAfterMs)
          seen.paintedAfterMs = performance.now() - seen.pressedAt;
      });
    }
  };
  addEventListener(
    'keydown',
    () => {
      seen.pressedAt = performance.now();
      seen.paintedAfterMs = 0;
    },
    true,
  );
}

async function pressAtStage(page: Page, n: number): Promise<number> {
  await page.keyboard.press(String.fromCharCode(97 + (n % 26)));
  const handle = await page
    .waitForFunction(() => (window as unknown as { paintedAfterMs: number }).paintedAfterMs, undefined, {
      timeout: LOST_MS,
      polling: 5,
    })
    .catch(() => undefined);
  await sleep(GAP_MS);
  return handle ? await handle.jsonValue() : LOST_MS;
}

/** XTEST key to DAMAGE on the same display, with nobody in between. */
async function ownTimes(display: string) {
  const x = await XConnection.open(display, () => undefined);
  const { damage, xtest } = await loadExtensions(x);
  const id = x.client.AllocID();
  damage.Create(id, x.root, DAMAGE_NON_EMPTY);
  await x.flush();
  let onDamage: () => void = () => undefined;
  x.client.on('event', (event) => {
    if (event['damage'] === id) onDamage();
  });
  return {
    async press(n: number): Promise<number> {
      damage.Subtract(id, 0, 0);
      await x.flush();
      const changed = new Promise<void>((resolve) => (onDamage = resolve));
      const pressedAt = performance.now();
      const keycode = FIRST_KEYCODE + (n % KEYCODES);
      xtest.FakeInput(2, keycode, 0, 0, 0, 0);
      xtest.FakeInput(3, keycode, 0, 0, 0, 0);
      await Promise.race([changed, sleep(LOST_MS)]);
      const took = performance.now() - pressedAt;
      await sleep(GAP_MS);
      return took;
    },
    close: () => x.close(),
  };
}
