import { canvasPixels, clean, dumpScreen, houseWithPages, samePixels, sizes, until } from '@porch/testkit';
import type { Page } from 'playwright-core';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

/* Whole stories through the real pages, in Chromium, against the running service and a real X desktop. */
const { house, pages } = await houseWithPages({ hasTickets: true });

const chip = (page: Page, permission: string, standing: string) =>
  page.locator(`[data-test=chip-${permission}][data-standing=${standing}]`).waitFor();
const ask = (page: Page, permission: string) => page.locator(`[data-test=chip-${permission}] button`).click();
/** The customer's way in by a code, to the moment where Doorstep is due. Gives the link that Doorstep joins with. */
async function customerComesIn(
  code: string,
  size: { width: number; height: number } = sizes.wide,
): Promise<{ page: Page; doorstepLink: string; problems: string[] }> {
  const { page, problems } = await pages.window(size);
  await page.goto(`${house.url}/`);
  await clean(page, 'the front door');
  await page.getByLabel('Code, eight digits').fill(code);
  await page.getByRole('button', { name: 'Go on' }).click();
  await page.getByRole('heading', { name: /Did you call us/ }).waitFor();
  await clean(page, 'the call question');
  await page.getByRole('button', { name: 'I called them' }).click();
  await page.getByRole('heading', { name: /wants to help you/ }).waitFor();
  await clean(page, 'who asks');
  await page.getByLabel('Your name').fill('Bettina Crole');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  const open = page.getByRole('link', { name: 'Open Doorstep' });
  await open.waitFor();
  await clean(page, "the customer's session");
  return { page, problems, doorstepLink: ((await open.getAttribute('href')) ?? '').split('/join/')[1] ?? '' };
}

describe('with a one-time code, from nothing to the receipt', () => {
  it('a technician sees and works a real desktop in the console, and Stop is the last word', async () => {
    const pim = await pages.signedIn(house);
    await clean(pim.page, 'the porch');
    await pim.page.keyboard.press('Enter');
    const code = (await pim.page.locator('[data-test=code]').textContent()) ?? '';
    await clean(pim.page, 'a session that waits');
    const customer = await customerComesIn(code);
    await pim.page.getByText('They are ready.').waitFor();
    const { desktop, person } = await house.withDoorstep(customer.doorstepLink, { programs: 'editor' });
    await customer.page.getByText('What they may do now').waitFor();

    // Words, from the first second, both ways.
    await pim.page.locator('[data-test=chat-box] textarea').fill('Good morning, Bettina.');
    await pim.page.locator('[data-test=chat-send]').click();
    await customer.page.getByText('Good morning, Bettina.').waitFor();
    await customer.page.getByLabel('Your message').fill('Hello Pim.');
    await customer.page.keyboard.press('Enter');
    await pim.page.locator('[data-test=ledger]').getByText('Hello Pim.').waitFor();

    // A no at the page, then a yes at the desktop.
    await pim.page.locator('[data-test=chip-view-screen] button:not([disabled])').waitFor();
    await ask(pim.page, 'view-screen');
    await customer.page.locator('[data-test=ask]').getByRole('button', { name: 'No' }).click();
    await chip(pim.page, 'view-screen', 'saidNo');
    await ask(pim.page, 'view-screen');
    await person.answer(true, 1_100);
    await chip(pim.page, 'view-screen', 'allowed');
    await clean(pim.page, 'the stage');

    // What a program draws there appears on the stage, pixel for pixel.
    const canvas = pim.page.locator('[data-test=stage-canvas]');
    await until('the stage to equal the screen', async () =>
      samePixels((await canvasPixels(canvas)).pixels, dumpScreen(desktop.display)),
    );

    // What is typed at the stage arrives in that program's file.
    const box = (await canvas.boundingBox()) ?? { x: 0, y: 0, width: 1, height: 1 };
    const at = [box.x + box.width * 0.25, box.y + box.height * 0.45] as const;
    await pim.page.mouse.click(...at);
    await pim.page.getByRole('button', { name: 'Ask to use mouse and keyboard' }).click();
    await person.answer(true, 1_100);
    await chip(pim.page, 'control-input', 'allowed');
    await pim.page.locator('[data-test=work]').click();
    await pim.page.getByRole('button', { name: 'Pause my input' }).waitFor();
    await pim.page.mouse.click(...at);
    await pim.page.keyboard.press('Control+End');
    await pim.page.keyboard.type('barcode-height = 24 {Ok} @~');
    await pim.page.keyboard.press('Control+s');
    await until('what was typed', () =>
      readFileSync(desktop.settingsFile, 'utf8').includes('barcode-height = 24 {Ok} @~'),
    );

    // Stop at the desktop while the service is down: not one more key.
    await house.killService();
    await person.pressStop();
    await pim.page.keyboard.type('one more').catch(() => undefined);
    await house.startService();
    await customer.page.getByRole('heading', { name: 'The session has ended' }).waitFor();
    await clean(customer.page, 'the receipt');
    expect(await customer.page.locator('[data-test=receipt]').textContent()).toContain('pressed Stop');
    expect(readFileSync(desktop.settingsFile, 'utf8')).not.toContain('one more');

    await pim.page.locator('[data-test=outcome]').waitFor();
    await clean(pim.page, 'the ending');
    await pim.page.locator('[data-test=outcome]').selectOption('resolved');
    await pim.page.locator('[data-test=log-outcome]').click();
    await pim.page.locator('[data-test=logged]').waitFor();
    await pim.page.getByRole('link', { name: 'The whole ledger' }).click();
    await pim.page.locator('[data-test=verdict]').getByText('The chain holds').waitFor();
    await clean(pim.page, 'the ledger');
    expect([pim.problems, customer.problems]).toEqual([[], []]);
  });
});

describe('from a ticket', () => {
  it('files go both ways, the session is handed over without the picture stopping, and the ticket hears of it all', async () => {
    const pim = await pages.signedIn(house);
    const rune = await pages.signedIn(house, 'Rune Takahashi');
    await pim.page.getByLabel('Ticket, name, device, telephone number, or nothing for a code').fill('mf-201');
    await pim.page.getByText('Enter starts from ticket MF-201: Boarding-pass printer').waitFor();
    await pim.page.keyboard.press('Enter');
    await pim.page.locator('[data-test=post-link]').click();
    const link = await until(
      'the link in the ticket',
      async () => /\/join\/([\w-]+)/.exec(await (await fetch(`${house.ticketsUrl}/t/MF-201`)).text())?.[1],
    );
    const customer = await pages.window(sizes.narrow);
    await customer.page.goto(`${house.url}/join/${link}`);
    await clean(customer.page, 'the link page');
    await customer.page.getByRole('button', { name: 'Continue' }).click();
    await customer.page.getByText('Ticket MF-201').waitFor();
    expect(await customer.page.getByLabel('Your name').inputValue(), 'prefilled from the ticket').toBe('Bettina Crole');
    await customer.page.getByRole('button', { name: 'Begin', exact: true }).click();
    const href = (await customer.page.getByRole('link', { name: 'Open Doorstep' }).getAttribute('href')) ?? '';
    const { desktop, person } = await house.withDoorstep(href.split('/join/')[1] ?? '');
    await clean(customer.page, "the customer's session, narrow");

    await pim.page.locator('[data-test=chip-view-screen] button:not([disabled])').waitFor();
    for (const permission of ['view-screen', 'give-files', 'fetch-files']) {
      await ask(pim.page, permission);
      await person.answer(true, 1_100);
      await chip(pim.page, permission, 'allowed');
    }
    await pim.page.locator('[data-test=shelf-files]').click();
    const given = join(house.folder, 'given.txt');
    writeFileSync(given, 'barcode-height = 24\n'.repeat(20_000));
    await pim.page.locator('[data-test=give-files]').setInputFiles(given);
    await person.answer(true, 1_100);
    await pim.page.getByText('is complete').first().waitFor();
    expect(readFileSync(join(desktop.home, 'Downloads', 'given.txt')).equals(readFileSync(given))).toBe(true);
    const photo = join(house.folder, 'photo of the pass.png');
    writeFileSync(photo, Buffer.alloc(150_000, 7));
    await customer.page.locator('[data-test=give-files]').setInputFiles(photo);
    const download = pim.page.waitForEvent('download');
    await pim.page.getByRole('button', { name: 'Take', exact: true }).click();
    const saved = join(house.folder, 'saved.png');
    await (await download).saveAs(saved);
    expect(readFileSync(saved).equals(readFileSync(photo))).toBe(true);
    await clean(pim.page, 'the stage with files');

    await pim.page.locator('[data-test=shelf-handover]').click();
    await pim.page.locator('[data-test=handover-to]').selectOption('rune');
    await pim.page.locator('[data-test=handover-ask]').click();
    await rune.page.locator('[data-test=handover]').waitFor();
    await clean(rune.page, 'the porch with a handover');
    expect(await rune.page.locator('[data-test=handover]').textContent()).toContain('Bettina Crole, ticket MF-201');
    await rune.page.locator('[data-test=handover-accept]').click();
    await person.answer(true, 1_100);
    await chip(rune.page, 'view-screen', 'allowed');
    await pim.page.locator('[data-test=out]').waitFor();
    await rune.page.locator('[data-test=stage-canvas]').waitFor();
    await customer.page.getByRole('heading', { name: 'Rune Takahashi' }).waitFor();

    await rune.page.locator('[data-test=try]').click();
    await customer.page.locator('[data-test=works]').click();
    await rune.page.getByText('They tried it: it works.').waitFor();
    await rune.page.locator('[data-test=end]').click();
    await rune.page.locator('[data-test=end-now]').click();
    await rune.page.locator('[data-test=log-outcome]').click();
    await rune.page.locator('[data-test=logged]').waitFor();
    const ticket = await until('the outcome in the ticket', async () => {
      const text = await (await fetch(`${house.ticketsUrl}/t/MF-201`)).text();
      return text.includes('Outcome: resolved') && text;
    });
    expect(ticket).toContain('Rune Takahashi took over from Pim Aldersey');
    await clean(customer.page, 'the receipt, narrow');
    expect([pim.problems, rune.problems, customer.problems]).toEqual([[], [], []]);
  });
});

describe('the pages', () => {
  it('say at once when a digit is mistyped', async () => {
    const { page } = await pages.window();
    await page.goto(`${house.url}/`);
    await page.getByLabel('Code, eight digits').fill('4127 9036');
    await page.getByText('One of the digits is wrong.').waitFor();
    expect(await page.getByRole('button', { name: 'Go on' }).isDisabled()).toBe(true);
  });
  it('ask for the second number, too, once codes are guessed', async () => {
    const pim = await pages.signedIn(house);
    const { code, session } = await (await house.signedIn()).start({});
    await pim.page.goto(`${house.url}/console/session/${session.id}`);
    const shown = await pim.page.locator('[data-test=second-number] span').innerText();
    await house.query(
      `INSERT INTO "attempt" ("bucket", "window_start", "count") VALUES ('code-alone:everybody', now(), 1000)
       ON CONFLICT ("bucket") DO UPDATE SET "count" = 1000, "window_start" = now()`,
    );
    const { page } = await pages.window(sizes.narrow);
    await page.goto(`${house.url}/`);
    await page.getByLabel('Code, eight digits').fill(code.digits);
    await page.getByRole('button', { name: 'Go on' }).click();
    await page.getByLabel('Second number, six digits').waitFor();
    await clean(page, 'the second number, narrow');
    expect(await page.getByRole('button', { name: 'Go on' }).isDisabled()).toBe(true);
    await page.keyboard.type(shown);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'They called me' }).waitFor();
    await house.query(`DELETE FROM "attempt"`);
  });
  it('stop at “they called me”, and show the published number', async () => {
    const rest = await house.signedIn();
    const { code } = await rest.start({});
    const { page } = await pages.window();
    await page.goto(`${house.url}/`);
    await page.getByLabel('Code, eight digits').fill(code.digits);
    await page.getByRole('button', { name: 'Go on' }).click();
    await page.getByRole('button', { name: 'They called me' }).click();
    await page.getByText('555-0142').waitFor();
    await clean(page, 'the stop');
  });
  it('take a customer from the request page, over a closed browser, into the session', async () => {
    const pim = await pages.signedIn(house, 'Pim Aldersey', sizes.narrow);
    await clean(pim.page, 'the porch, narrow');
    const customer = await pages.window(sizes.narrow);
    await customer.page.goto(`${house.url}/help`);
    await clean(customer.page, 'the request page');
    await customer.page.getByLabel('Your name').fill('Ada Quillfeather');
    await customer.page.getByLabel('Email or telephone').fill('555-0107');
    await customer.page.getByLabel('What goes wrong?').fill('The kiosk shows yesterday.');
    await customer.page.getByRole('button', { name: 'Send' }).click();
    await customer.page.locator('[data-test=place]').waitFor();
    await customer.page.goto('about:blank');
    await customer.page.goto(`${house.url}/help`);
    await customer.page.locator('[data-test=place]').waitFor();
    await pim.page.getByRole('button', { name: 'Help Ada Quillfeather' }).click();
    await customer.page.getByRole('heading', { name: /Pim Aldersey of Marrowick Ferries/ }).waitFor();
    await clean(pim.page, 'a session, narrow');
    expect([pim.problems, customer.problems]).toEqual([[], []]);
  });
  it('say when the service is away, and come back by themselves', async () => {
    const pim = await pages.signedIn(house);
    await house.killService();
    await pim.page.getByText('The service cannot be reached just now; trying again').waitFor();
    await clean(pim.page, 'the porch, offline');
    await house.startService();
    await pim.page.getByText('The service cannot be reached just now; trying again').waitFor({ state: 'detached' });
  });
  it('refuse a wrong password in words', async () => {
    const { page } = await pages.window();
    await page.goto(`${house.url}/console/`);
    await clean(page, 'the sign-in');
    await page.getByLabel('Email', { exact: true }).fill('pim.aldersey@marrowick.example');
    await page.getByLabel('Password').fill('wrong');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByText('The address or the password is wrong').waitFor();
  });
});
