import { technicianTalk } from '@porch/client';
import {
  beginByLink,
  askAndAgree,
  cleanAtBothSizes,
  desktopWithSound,
  EarAtSpeakers,
  Ears,
  houseWithPages,
  startWorking,
  toneFile,
  until,
} from '@porch/testkit';
import type { Page } from 'playwright-core';
import { expect, it } from 'vitest';

/* Hearing and speaking in real pages: the browser's own Opus, its speakers, and a microphone that beeps each second. */

const { house, pages } = await houseWithPages();

/** The loudest that the page shows of somebody, from 0 to 1. */
const levelIn = async (page: Page, where: string): Promise<number> => {
  const level = page.locator(`${where} [data-test=level]`);
  return (await level.count()) ? Number(await level.first().getAttribute('data-share')) : 0;
};
it('lets a technician hear their computer and speak with whoever sits there, from the console', async () => {
  const session = await house.sessionUnderWay();
  session.technician.close();
  const { desktop, sound } = await desktopWithSound(house, 'heard');
  const { person } = await house.withDoorstep(session.link, { desktop });
  const speakers = await EarAtSpeakers.open(sound);
  const { page, problems } = await pages.signedIn(house);
  await page.context().grantPermissions(['microphone']);
  await page.goto(`${house.url}/console/session/${session.id}`);
  for (const permission of ['view-screen', 'hear-sound', 'speak-together']) {
    const chip = page.locator(`[data-test=chip-${permission}]`);
    if (permission !== 'view-screen' && !(await chip.isVisible())) await page.locator('[data-test=more]').click();
    await chip.locator('button:not([disabled])').click();
    await person.answer(true, 1_100);
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  }
  // What was asked for is heard at once.
  await page.locator('[data-test=hear][aria-pressed=true]').waitFor();
  const playing = sound.play(toneFile(house.folder, 440));
  await until('the level of the tone', async () => (await levelIn(page, '.hear')) > 0.5);
  await page.locator('[data-test=hear]').click();
  await page.locator('[data-test=hear][aria-pressed=false]').waitFor();
  playing.kill();
  sound.play(toneFile(house.folder, 220), 'microphone');
  await until('the voice of the other side', async () => (await levelIn(page, '[data-test=voice-open]')) > 0.5);
  await page.locator('[data-test=hush]').click();
  await until('nobody to be heard', async () => (await levelIn(page, '[data-test=voice-open]')) === 0);
  await page.locator('[data-test=hush]').click();
  await until('them again', async () => (await levelIn(page, '[data-test=voice-open]')) > 0.5);
  speakers.forget();
  await page.locator('[data-test=speak]').click();
  await until('the beep of this microphone at their speakers', () => speakers.peak > 0.05);
  await cleanAtBothSizes(page, 'hearing and speaking');
  await page.locator('[data-test=speak]').click();
  await page.getByRole('button', { name: 'Unmute me' }).waitFor();
  await until('silence at their speakers', () => speakers.peak < 0.01);
  // Nobody is heard from a page that does not show it.
  await page.locator('[data-test=speak]').click();
  await until('the beep once more', () => speakers.peak > 0.05);
  await page.getByRole('link', { name: 'Devices', exact: true }).click();
  await until('silence from another page', () => speakers.peak < 0.01);
  await page.goBack();
  await page.getByRole('button', { name: 'Unmute me' }).waitFor();
  // Held with a key, as long as it is held.
  await page.locator('[data-test=hold-to-talk]').focus();
  await page.keyboard.down('Space');
  await until('the beep while it is held', () => speakers.peak > 0.05);
  await page.keyboard.up('Space');
  await until('silence after', () => speakers.peak < 0.01);
  await page.locator('[data-test=chip-speak-together]').getByRole('button').last().click();
  await page.locator('[data-test=speak]').waitFor({ state: 'detached' });
  expect(problems).toEqual([]);
  speakers.close();
});

it('speaks with a customer who has nothing but their page', async () => {
  const rest = await house.signedIn('Pim Aldersey');
  const started = await rest.start({});
  const technician = await house.technician(rest, started.session.id);
  const { page, problems } = await pages.window();
  await page.context().grantPermissions(['microphone']);
  await beginByLink(page, started.link);
  await until('the page to hold the consent', () => technician.state.holderId);
  const ears = new Ears(500);
  const talk = technicianTalk(technician, ears);
  technician.on('entry', () => talk.changed());
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['speak-together'] });
  await page.getByText('Your microphone is opened when you say yes').waitFor();
  await cleanAtBothSizes(page, 'the question');
  await page.locator('[data-test=allow]').click();
  await page.getByRole('heading', { name: 'Your microphone is open' }).waitFor();
  talk.open();
  await until('their beep', () => Math.max(0, ...ears.heard.slice(-72_000).map(Math.abs)) > 0.05);
  await page.getByText('Pim Aldersey can be heard').waitFor();
  await cleanAtBothSizes(page, 'an open microphone');
  await page.locator('[data-test=mute]').click();
  await page.getByRole('heading', { name: 'Your microphone is muted' }).waitFor();
  await until('the word', () => talk.state.others[0]?.microphone === 'muted');
  await until('silence', () => performance.now() - ears.heardAtMs > 1_500);
  await page.locator('[data-test=mute]').click();
  await until('their beep again', () => performance.now() - ears.heardAtMs < 200);
  // Taken back on the page: closed, though nothing was ever shown.
  await page.getByRole('button', { name: 'Take back' }).click();
  await page.locator('[data-test=speaking]').waitFor({ state: 'detached' });
  await until('the end', () => performance.now() - ears.heardAtMs > 1_500);
  talk.close();
  expect(problems).toEqual([]);
});

it('lets two technicians and the customer hear each other, and nobody who may not', async () => {
  const w = await house.sessionUnderWay();
  const { desktop, sound } = await desktopWithSound(house, 'three');
  const { person } = await house.withDoorstep(w.link, { desktop });
  await startWorking(w.technician, person);
  await askAndAgree(w.technician, person, ['speak-together']);
  const rest = await house.signedIn('Rune Takahashi');
  const { id: technicianId } = await rest.me();
  await w.technician.command({ type: 'beside/letIn', technicianId, part: 'colleague' });
  const rune = await house.technician(rest, w.id);
  const [pimsEars, runesEars] = [new Ears(500), new Ears(800)];
  const [pimsTalk, runesTalk] = [technicianTalk(w.technician, pimsEars), technicianTalk(rune, runesEars)];
  for (const [connection, talk] of [
    [w.technician, pimsTalk],
    [rune, runesTalk],
  ] as const)
    connection.on('entry', () => talk.changed());
  pimsTalk.open();
  runesTalk.open();
  sound.play(toneFile(house.folder, 220), 'microphone');
  await until('Pim to hear the customer', () => pimsEars.loudness(220) > 0.15);
  expect([runesEars.packets, pimsEars.loudness(800) < 0.05]).toEqual([0, true]);
  await askAndAgree(rune, person, ['speak-together']);
  await until('Rune to hear the customer', () => runesEars.loudness(220) > 0.15);
  await until('Rune to hear Pim', () => runesEars.loudness(500) > 0.15);
  await until('Pim to hear Rune', () => pimsEars.loudness(800) > 0.15);
  pimsTalk.close();
  runesTalk.close();
});
