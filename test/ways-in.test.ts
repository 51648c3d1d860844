import { cleanAtBothSizes, houseWithPages, PAGE_MS, sizes, until } from '@porch/testkit';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';

/* The ways in as people take them: through the real pages, with the mail that really arrived. */
const { house, pages } = await houseWithPages({ hasTickets: true, hasPost: true });

it('a request in Norwegian: words while waiting, the browser closed and opened again, an offer, and the receipt as a file', async () => {
  const ada = await pages.window(sizes.wide, 'nb-NO');
  await ada.page.goto(`${house.postUrl}/ferry`);
  const box = ada.page.frameLocator('iframe');
  await box.getByRole('link', { name: 'Ask for help' }).waitFor();
  const [help] = await Promise.all([
    ada.page.context().waitForEvent('page'),
    box.getByRole('link', { name: 'Ask for help' }).click(),
  ]);
  help.setDefaultTimeout(PAGE_MS);
  await help.getByText('Ingen er på plass akkurat nå').waitFor();
  await cleanAtBothSizes(help, 'the request page');
  await help.getByLabel('Navnet ditt').fill('Ada Quillfeather');
  await help.getByLabel('E-postadresse eller telefon').fill('ada.quillfeather@marrowick.example');
  await help.getByLabel('Hva er problemet?').fill('Skriveren ved luka skriver ikke');
  await help.getByRole('button', { name: 'Send' }).click();
  expect(await help.locator('[data-test=place]').textContent()).toBe('1');
  await help.getByLabel('Meldingen din').fill('Lampen blinker to ganger.');
  await help.keyboard.press('Enter');
  await help.getByText('Lampen blinker to ganger.').waitFor();
  await cleanAtBothSizes(help, 'the queue page');
  await help.close();

  // Rune speaks Norwegian: it is offered to him, with the words that were written meanwhile.
  const rune = await pages.signedIn(house, 'Rune Takahashi');
  await rune.page.locator('[data-test=offer]').getByText('speaks the language').waitFor();
  await rune.page.getByText('Lampen blinker to ganger.').waitFor();
  await cleanAtBothSizes(rune.page, 'the porch with an offer');
  const again = await ada.page.context().newPage();
  again.setDefaultTimeout(PAGE_MS);
  await again.goto(`${house.url}/help`);
  await again.getByText('Noen leser henvendelsen din nå.').waitFor();
  await rune.page.getByLabel('To Ada Quillfeather').fill('Er det papir i den?');
  await rune.page.keyboard.press('Enter');
  await again.getByText('Er det papir i den?').waitFor();
  await rune.page.getByRole('button', { name: 'Help Ada Quillfeather' }).click();

  await again.getByRole('heading', { name: 'Rune Takahashi hos Marrowick Ferries vil hjelpe deg' }).waitFor();
  await again.getByRole('button', { name: 'Begynn', exact: true }).click();
  await again.getByRole('heading', { name: 'Hva de får gjøre nå' }).waitFor();
  await cleanAtBothSizes(again, 'the session in Norwegian');
  await again.getByText('Du begynte økten').waitFor();
  await again.getByRole('button', { name: 'Stopp', exact: true }).waitFor();
  await again.keyboard.press('Alt+s');
  await again.getByRole('heading', { name: 'Økten er avsluttet' }).waitFor();
  await cleanAtBothSizes(again, 'the receipt in Norwegian');
  const [download] = await Promise.all([
    again.waitForEvent('download'),
    again.getByRole('button', { name: 'Ta vare på den som fil' }).click(),
  ]);
  const kept = join(house.folder, 'receipt.html');
  await download.saveAs(kept);
  const file = readFileSync(kept, 'utf8');
  const rest = await house.signedIn('Rune Takahashi');
  const { lastSeq } = (await rest.sessions())[0] ?? {};
  expect(file).toContain('Du trykket Stopp');
  expect(file).toMatch(new RegExp(`Kontrollnummer ${lastSeq}:[0-9a-f]{64}`));
  expect([ada.problems, rune.problems]).toEqual([[], []]);
});

it('a mail that comes back, the next way offered and taken, and “opened” the moment a person presses Continue', async () => {
  const pim = await pages.signedIn(house);
  await pim.page.getByLabel('Ticket, name, device, telephone number, or nothing for a code').fill('MF-201');
  await pim.page.getByText('Enter starts from ticket MF-201').waitFor();
  await pim.page.keyboard.press('Enter');
  await pim.page.locator('[data-test=read-aloud]').waitFor();
  await house.setPost({ mail: 'bounce' });
  await pim.page.locator('[data-test=invite-mail]').click();
  await pim.page.getByRole('button', { name: 'Show what is sent' }).click();
  await pim.page
    .locator('[data-test=preview]')
    .getByText('Pim Aldersey of Marrowick Ferries is ready to help you')
    .first()
    .waitFor();
  await cleanAtBothSizes(pim.page, 'the invitation form');
  await pim.page.locator('[data-test=invite-form] button[type=submit]').click();
  await pim.page.locator('[data-test=delivery-mail]').getByText('nobody here has this address').waitFor();
  await pim.page.locator('[data-test=next-way]').getByText('Try: Text message').click();
  await pim.page.getByLabel('Telephone number').fill('555-0161');
  await pim.page.locator('[data-test=invite-form] button[type=submit]').click();
  const state = pim.page.locator('[data-test=delivery-text-message]');
  await state.getByText('delivered, not opened yet').waitFor();
  const link = await until(
    'the text message',
    async () => /\/join\/[\w-]+/.exec((await house.textsTo('555-0161'))[0]?.text ?? '')?.[0],
  );
  const bettina = await pages.window(sizes.narrow);
  await bettina.page.goto(house.url + link);
  await bettina.page.getByRole('heading', { name: 'Somebody is ready to help you' }).waitFor();
  await state.getByText('delivered, not opened yet').waitFor();
  await bettina.page.getByRole('button', { name: 'Continue' }).click();
  await bettina.page.getByText('Ticket MF-201').waitFor();
  const rest = await house.signedIn();
  const [session] = await rest.sessions('MF-201');
  expect(session?.invitations.find((i) => i.way === 'text-message')).toMatchObject({ delivery: 'opened', uses: 1 });
  expect([pim.problems, bettina.problems]).toEqual([[], []]);
});

it('a booking made at the console stands on the porch of the day', async () => {
  const pim = await pages.signedIn(house);
  const form = pim.page.locator('[data-test=book]');
  await form.getByText('Book a session').click();
  await form.getByLabel('Customer').fill('Samir Oduya');
  await form.getByLabel('Mail address').fill('samir.oduya@marrowick.example');
  const when = new Date(Date.now() + 26 * 3_600_000).toISOString();
  await form.getByLabel('Date, as their calendar has it').fill(when.slice(0, 10));
  await form.getByLabel('Time, as their clock shows it').fill(when.slice(11, 16));
  await form.getByLabel('Their time zone').selectOption('UTC');
  await form.getByLabel('What it is about').fill('The manifest export of the Petrel');
  await cleanAtBothSizes(pim.page, 'the booking form');
  await house.setPost({ mail: 'well' });
  await form.getByRole('button', { name: 'Book it' }).click();
  await pim.page.locator('[data-test=booking]').getByText('The manifest export of the Petrel').waitFor();
  await until('the mail', async () => (await house.mailsTo('samir.oduya@marrowick.example')).length);
  expect(pim.problems).toEqual([]);
});
