import { languages, type Language } from '@porch/core';
import { cleanAtBothSizes, houseWithPages, sizes, until } from '@porch/testkit';
import type { Page } from 'playwright-core';
import { expect, it } from 'vitest';

/* A customer who speaks Norwegian or German reads no English: on no page, in no mail, and in no question of Doorstep. */
const { house, pages } = await houseWithPages({ hasPost: true });

/** Words that no Norwegian and no German sentence has. Names of people and things are the same in every language. */
const ENGLISH =
  /\b(the|you|your|please|with|are|this|that|they|their|nobody|somebody|help with|allowed|asked|what|when|who|and|is|printing|signing in|something else)\b/i;
const locales: Readonly<Record<Exclude<Language, 'en'>, string>> = { no: 'nb-NO', de: 'de-DE' };
const say: Readonly<
  Record<Exclude<Language, 'en'>, { trouble: string; name: string; begin: string; fields: readonly string[] }>
> = {
  no: {
    trouble: 'Skriveren ved luka skriver ikke',
    begin: 'Begynn',
    name: 'Ada Quillfeather',
    fields: ['Navnet ditt', 'E-postadresse eller telefon', 'Hva er problemet?'],
  },
  de: {
    trouble: 'Der Drucker am Schalter druckt nicht',
    begin: 'Beginnen',
    name: 'Ada Quillfeather',
    fields: ['Ihr Name', 'E-Mail-Adresse oder Telefon', 'Was geht nicht?'],
  },
};
/** English, and what this software is called. */
const ownNames = /Zesty Porch|Doorstep|Marrowick Ferries|English|Tern Quay|help\.marrowick\.example/g;

async function noEnglish(page: Page, what: string): Promise<void> {
  const text = (await page.locator('body').innerText()).replace(ownNames, '');
  expect(
    text.split('\n').filter((line) => ENGLISH.test(line)),
    what,
  ).toEqual([]);
  expect(await page.title(), `the title of ${what}`).toBe('Marrowick Ferries');
}

it.each(languages.filter((language) => language !== 'en'))('from the request to the copy, in %s', async (language) => {
  const { name, trouble, begin, fields } = say[language as 'no' | 'de'];
  const { page, problems } = await pages.window(sizes.narrow, locales[language as 'no' | 'de']);
  await page.goto(house.url);
  await page.locator('button.first').waitFor();
  await until('the title', async () => (await page.title()) === 'Marrowick Ferries');
  await noEnglish(page, 'the page for the code');
  await page.goto(`${house.url}/help`);
  for (const [i, value] of [name, 'ada.quillfeather@marrowick.example', trouble].entries())
    await page.getByLabel(fields[i] ?? '', { exact: true }).fill(value);
  await noEnglish(page, 'the request page');
  await page.locator('button.first').click();
  await page.locator('[data-test=place]').waitFor();
  await noEnglish(page, 'the queue page');

  const rune = await house.signedIn('Rune Takahashi');
  const entry = await until('the request', async () =>
    (await rune.porch()).waiting.find((e) => e.language === language),
  );
  const { session } = await rune.start({ queueEntryId: entry.id });
  expect(session.purpose, 'to the technician').toBe(`${entry.topic}: ${trouble}`);
  const technician = await house.technician(rune, session.id);
  await page.locator('form h1').getByText('Rune Takahashi').waitFor();
  await page.getByText(trouble, { exact: true }).waitFor();
  await noEnglish(page, 'what is read before it begins');
  await page.getByRole('button', { name: begin, exact: true }).click();
  await page.locator('[data-test=stop]').waitFor();
  await until('the beginning', () => technician.state.phase.name === 'live');
  await technician.command({
    type: 'askPermissions',
    askId: crypto.randomUUID(),
    permissions: ['view-screen', 'draw-on-screen'],
  });
  await page.locator('[data-test=ask]').waitFor();
  await noEnglish(page, 'a question');
  await page.locator('[data-test=ask] button').last().click();
  await until('the no', () => technician.entries.some((e) => e.event.type === 'askClosed'));
  await technician.command({ type: 'askToTry' });
  await until('the try', () => technician.entries.some((e) => e.event.type === 'tryItAsked'));
  await noEnglish(page, 'the session');
  await page.locator('[data-test=stop]').click();
  await page.locator('[data-test=receipt]').waitFor();
  await noEnglish(page, 'the copy');
  expect(problems).toEqual([]);
});

it.each(languages.filter((language) => language !== 'en'))('in a mail that asks them in, in %s', async (language) => {
  const pim = await house.signedIn('Pim Aldersey');
  const { session } = await pim.start({ sessionId: crypto.randomUUID() });
  const to = 'bettina.crole@marrowick.example';
  const sent = (await house.mailsTo(to)).length;
  await pim.invite(session.id, { way: 'mail', address: to, language, remark: '' });
  const [mail] = await until('the mail', async () => {
    const mails = await house.mailsTo(to);
    return mails.length > sent ? mails : undefined;
  });
  const text = `${mail?.subject}\n${mail?.text}`.replace(ownNames, '').replace(/https?:\S+/g, '');
  expect(text.split('\n').filter((line) => ENGLISH.test(line))).toEqual([]);
});

it('the console speaks Norwegian and German to technicians, live, and stays with what they chose', async () => {
  const { page, problems } = await pages.signedIn(house);
  const speaks = async (tag: string) =>
    until(`the page to be in ${tag}`, () => page.evaluate((wanted) => document.documentElement.lang === wanted, tag));
  const leaves = async (what: string) => {
    // Tickets and names are whoever's they are.
    const chrome = await page.locator('header, h1, h2, h3, label, button, summary, .quiet').allInnerTexts();
    const own = chrome.map((text) => text.replace(ownNames, '')).filter((text) => ENGLISH.test(text));
    expect(own, what).toEqual([]);
  };
  for (const [language, tag, porch, devices] of [
    ['no', 'nb', 'Verandaen', 'Enheter'],
    ['de', 'de', 'Die Veranda', 'Geräte'],
  ] as const) {
    await page.locator('[data-test=language]').selectOption(language);
    await speaks(tag);
    expect(await page.title()).toBe(`${porch} · Zesty Porch`);
    await page.locator('#start-field').press('Enter');
    await page.locator('[data-test=waiting]').waitFor();
    await page.locator('[data-test=read-aloud]').waitFor();
    await leaves(`a session in ${language}`);
    await cleanAtBothSizes(page, `a session in ${language}`);
    await page.getByRole('link', { name: devices, exact: true }).click();
    await page.getByRole('heading', { name: devices }).waitFor();
    await leaves(`the devices in ${language}`);
    await page.getByRole('link', { name: porch, exact: true }).click();
    await page.locator('#start-field').waitFor();
    await page.reload();
    await page.locator('#start-field').waitFor();
    await speaks(tag);
    await cleanAtBothSizes(page, `the porch in ${language}`);
  }
  expect(problems).toEqual([]);
});
