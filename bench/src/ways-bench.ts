import { emailOf, freePort, PASSWORD, postOfficeSettings, postSettings } from '@porch/demo';
import type { Browser, Locator, Page } from 'playwright-core';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { BenchHouse, dist } from './bench-house.ts';
import { openChromium } from './chromium.ts';

/*
 * How long a person takes is supposed, not measured: reading on a screen at 4 words a second, finding and pressing a
 * button in 1.5 s, eight digits read out and typed in 9 s, a mail or a text message found and opened in 8 s.
 */
const WORDS_A_SECOND = 4;
const PRESS_MS = 1_500;
const DIGITS_MS = 9_000;
const POST_MS = 8_000;
/** Doorstep takes no answer in the first second; the person reads meanwhile. */
const READ_MS = 1_200;
const BETTINA = 'bettina.crole@marrowick.example';

export interface WayNumbers {
  readonly way: string;
  readonly clicksCustomer: number;
  readonly clicksTechnician: number;
  readonly wordsCustomer: number;
  readonly oursSeconds: number;
  readonly peopleSeconds: number;
}

/** One walk from "a customer calls" to a picture on the stage: what is pressed, what is read, what is waited for. */
class Walk {
  readonly clicks = { customer: 0, technician: 0 };
  words = 0;
  oursMs = 0;
  peopleMs = 0;
  readonly #read = new Set<string>();

  /** The time until what was pressed for is there is ours. */
  async press(who: 'customer' | 'technician', what: Locator, then: () => Promise<unknown>): Promise<void> {
    this.clicks[who]++;
    this.peopleMs += PRESS_MS;
    await what.waitFor();
    const pressedAtMs = performance.now();
    await what.click();
    await then();
    this.oursMs += performance.now() - pressedAtMs;
  }
  /** Sentences that were there on the page before need no reading again. */
  async read(page: Page, part = 'main'): Promise<void> {
    const lines = (await page.locator(part).first().innerText()).split('\n').map((line) => line.trim());
    const fresh = lines.filter((line) => line && !this.#read.has(line));
    fresh.forEach((line) => this.#read.add(line));
    const words = fresh.join(' ').split(/\s+/).length;
    this.words += words;
    this.peopleMs += (words / WORDS_A_SECOND) * 1000;
  }
  wait(ms: number): void {
    this.peopleMs += ms;
  }
  numbers(way: string): WayNumbers {
    return {
      way,
      clicksCustomer: this.clicks.customer,
      clicksTechnician: this.clicks.technician,
      wordsCustomer: this.words,
      oursSeconds: this.oursMs / 1000,
      peopleSeconds: this.peopleMs / 1000,
    };
  }
}

/** From the call to the picture, by each way in, through the real pages. */
export async function waysBench(options: { json?: boolean }): Promise<void> {
  const folder = mkdtempSync('/var/tmp/zesty-porch-ways-');
  const key = join(folder, 'texts-key');
  writeFileSync(key, randomBytes(32).toString('hex'), { mode: 0o600 });
  const ports = { http: await freePort(), smtp: await freePort(), reports: await freePort() };
  const servicePort = await freePort();
  const house = await BenchHouse.open({ ...postSettings(ports, key), PORCH_PORT: String(servicePort) });
  const browser = await openChromium(['--auto-accept-this-tab-capture']);
  try {
    const post = await house.processes.startReady(
      'post office',
      join(dist, 'post.mjs'),
      postOfficeSettings(ports, key, servicePort),
    );
    const found: WayNumbers[] = [];
    found.push(await byCode(house, browser));
    found.push(await byMessage(house, browser, post.url, 'mail'));
    found.push(await byMessage(house, browser, post.url, 'text-message'));
    found.push(await byQueue(house, browser));
    if (options.json) process.stdout.write(`${JSON.stringify(found, undefined, 2)}\n`);
    else
      for (const w of found)
        process.stdout.write(
          `${w.way.padEnd(14)} customer ${w.clicksCustomer} presses, ${w.wordsCustomer} words; technician ${w.clicksTechnician} presses; ours ${w.oursSeconds.toFixed(1)} s, people ${w.peopleSeconds.toFixed(0)} s (supposed), together ${(w.oursSeconds + w.peopleSeconds).toFixed(0)} s\n`,
        );
  } finally {
    await browser.close();
    await house.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function technicianAt(house: BenchHouse, browser: Browser): Promise<Page> {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await page.goto(`${house.url}/console/`);
  await page.getByLabel('Email', { exact: true }).fill(emailOf('Pim Aldersey'));
  await page.getByLabel('Password').fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('heading', { name: 'Waiting now' }).waitFor();
  return page;
}

async function customerAt(browser: Browser, url: string): Promise<Page> {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  // A browser without a window has no dialog to choose in: what it offers is this tab.
  await page.addInitScript(() => {
    const choose = navigator.mediaDevices.getDisplayMedia.bind(navigator.mediaDevices);
    navigator.mediaDevices.getDisplayMedia = (wish) =>
      choose({ ...wish, preferCurrentTab: true } as DisplayMediaStreamOptions);
  });
  await page.goto(url);
  return page;
}

/** Who asks, and beginning; then the technician asks to see, and the customer shows something from the browser. */
async function agree(walk: Walk, technician: Page, customer: Page): Promise<void> {
  const begin = customer.getByRole('button', { name: 'Begin', exact: true });
  const call = customer.getByRole('button', { name: 'I called them' });
  await begin.or(call).first().waitFor();
  if (await call.isVisible()) {
    await walk.read(customer);
    await walk.press('customer', call, () => begin.waitFor());
  }
  await walk.read(customer);
  if (!(await customer.getByLabel('Your name').inputValue())) {
    await customer.getByLabel('Your name').fill('Bettina Crole');
    walk.wait(4_000);
  }
  await walk.press('customer', begin, () => customer.getByRole('heading', { name: 'What they may do now' }).waitFor());
  const chip = technician.locator('[data-test=chip-view-screen] button:not([disabled])');
  await walk.press('technician', chip, () => customer.locator('[data-test=ask]').waitFor());
  // The question stands above everything else, and is what the technician on the telephone speaks of.
  await walk.read(customer, '[data-test=ask]');
  const allow = customer.locator('[data-test=allow]:not([disabled])');
  await allow.waitFor({ timeout: READ_MS + 5_000 });
  // The browser's own dialog is one press more for a person.
  walk.clicks.customer++;
  walk.wait(PRESS_MS + 2_000);
  await walk.press('customer', allow, () =>
    technician.getByText('frames/s').or(technician.locator('[data-test=stage-canvas]')).first().waitFor(),
  );
}

async function byCode(house: BenchHouse, browser: Browser): Promise<WayNumbers> {
  const walk = new Walk();
  const technician = await technicianAt(house, browser);
  const code = technician.locator('[data-test=code]');
  await walk.press('technician', technician.getByRole('button', { name: 'Start', exact: true }).first(), () =>
    code.waitFor(),
  );
  const customer = await customerAt(browser, house.url);
  await walk.read(customer);
  walk.wait(DIGITS_MS);
  await customer.getByLabel('Code, eight digits').fill((await code.textContent()) ?? '');
  await walk.press('customer', customer.getByRole('button', { name: 'Go on' }), () =>
    customer.getByRole('button', { name: 'I called them' }).waitFor(),
  );
  await agree(walk, technician, customer);
  return walk.numbers('code');
}

async function byMessage(
  house: BenchHouse,
  browser: Browser,
  postUrl: string,
  way: 'mail' | 'text-message',
): Promise<WayNumbers> {
  const walk = new Walk();
  const technician = await technicianAt(house, browser);
  const button = technician.locator(`[data-test=invite-${way}]`);
  await walk.press('technician', technician.getByRole('button', { name: 'Start', exact: true }).first(), () =>
    button.waitFor(),
  );
  const form = technician.locator('[data-test=invite-form]');
  await walk.press('technician', button, () => form.waitFor());
  await form
    .locator('input')
    .first()
    .fill(way === 'mail' ? BETTINA : '555-0161');
  walk.wait(6_000);
  const before = (await messages(postUrl, way)).length;
  await walk.press('technician', form.locator('button[type=submit]'), () =>
    technician.locator(`[data-test=delivery-${way}]`).getByText('delivered').waitFor(),
  );
  const arrived = await messages(postUrl, way);
  const link = /https?:\/\/\S+\/join\/[\w-]+/.exec(arrived[0]?.text ?? '')?.[0];
  if (arrived.length <= before || !link) throw new Error(`no ${way} arrived`);
  walk.wait(POST_MS);
  const customer = await customerAt(browser, link);
  await walk.read(customer);
  await walk.press('customer', customer.getByRole('button', { name: 'Continue' }), () =>
    customer
      .getByRole('button', { name: 'Begin', exact: true })
      .or(customer.getByRole('button', { name: 'I called them' }))
      .first()
      .waitFor(),
  );
  await agree(walk, technician, customer);
  return walk.numbers(way);
}

const messages = async (postUrl: string, way: 'mail' | 'text-message') =>
  (await (await fetch(`${postUrl}/${way === 'mail' ? 'mails' : 'texts'}`)).json()) as { text: string }[];

async function byQueue(house: BenchHouse, browser: Browser): Promise<WayNumbers> {
  const walk = new Walk();
  const technician = await technicianAt(house, browser);
  const customer = await customerAt(browser, `${house.url}/help`);
  await customer.locator('[data-test=desk-now]').waitFor();
  await walk.read(customer);
  await customer.getByLabel('Your name').fill('Bettina Crole');
  await customer.getByLabel('Email or telephone').fill(BETTINA);
  await customer.getByLabel('What goes wrong?').fill('Every pass is cut in half');
  walk.wait(25_000);
  const help = technician.getByRole('button', { name: 'Help Bettina Crole' });
  await walk.press('customer', customer.getByRole('button', { name: 'Send' }), () => help.waitFor());
  await walk.press('technician', help, () => customer.getByRole('button', { name: 'Begin', exact: true }).waitFor());
  await agree(walk, technician, customer);
  return walk.numbers('queue');
}
