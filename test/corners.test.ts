import { cleanAtBothSizes, houseWithPages, sizes, until } from '@porch/testkit';
import { expect, it } from 'vitest';

/* What pages show seldom: another computer, a known fault, somebody who is away, somebody who leaves the queue. */
const { house, pages } = await houseWithPages();

it('another Doorstep asks for the place of the one that is there: sent away, then let in, and told to the customer', async () => {
  const pim = await pages.signedIn(house);
  const rest = await house.signedIn();
  const { session, link } = await rest.start({ sessionId: crypto.randomUUID() });
  await pim.page.goto(`${house.url}/console/session/${session.id}`);
  const bettina = await pages.window(sizes.narrow);
  await bettina.page.goto(`${house.url}/join/${link.split('/').at(-1)}`);
  await bettina.page.getByRole('button', { name: 'Continue' }).click();
  await bettina.page.getByText('I called them').click();
  await bettina.page.getByLabel('Your name').fill('Bettina Crole');
  await bettina.page.getByRole('button', { name: 'Begin', exact: true }).click();
  await bettina.page.getByRole('heading', { name: 'What they may do now' }).waitFor();
  const door = await bettina.page.evaluate(
    async () => (await (await fetch('/api/door/session')).json()) as { doorstepLink: string },
  );
  const own = door.doorstepLink.split('/').at(-1) ?? '';
  expect(own, 'the link that the page shows').toHaveLength(43);
  const first = await house.bareDoorstep({ link: own });
  await until('the first', () => first.state.holderId === first.participantId);
  const second = await house.bareDoorstep({ link: own });
  const banner = pim.page.locator('[data-test=change-over]');
  await banner.getByText('wants to take the place of the one you see').waitFor();
  await cleanAtBothSizes(pim.page, 'the session with a second computer');
  await pim.page.locator('[data-test=change-over-no]').click();
  await until('it to be sent away', () => second.status === 'closed');
  expect(first.state.holderId).toBe(first.participantId);
  await banner.waitFor({ state: 'detached' });
  const third = await house.bareDoorstep({ link: own });
  await pim.page.locator('[data-test=change-over-yes]').click();
  await until('the change', () => third.state.holderId === third.participantId);
  await until('the first to be out', () => first.status === 'closed');
  await bettina.page.getByText('goes on with the other computer; what you had allowed is over').waitFor();
  expect([pim.problems, bettina.problems]).toEqual([[], []]);
  await pim.page.context().close();
});

it('a known fault is published, is said before somebody queues, is counted, and is over when it is fixed', async () => {
  const pim = await pages.signedIn(house);
  await pim.page.getByText('Tell of a known fault').click();
  await pim.page.getByLabel('What customers read').fill('Barcodes at Tern Quay are cut in half. We are at it.');
  await pim.page.getByRole('button', { name: 'Publish' }).click();
  const fault = pim.page.locator('[data-test=known-fault]');
  await fault.getByText('nobody said yet that it happens to them, too').waitFor();
  await cleanAtBothSizes(pim.page, 'the porch with a known fault');

  const ada = await pages.window();
  await ada.page.goto(`${house.url}/help`);
  const topic = (await fault.locator('b').textContent()) ?? '';
  await ada.page.getByLabel('What is it about?').selectOption({ label: topic });
  const known = ada.page.locator('[data-test=known]');
  await known.getByText('Barcodes at Tern Quay are cut in half').waitFor();
  const button = known.getByRole('button', { name: 'It happens to me, too' });
  expect(await button.isDisabled(), 'nobody counts without a name').toBe(true);
  await ada.page.getByLabel('Your name').fill('Ada Quillfeather');
  await ada.page.getByLabel('Email or telephone').fill('ada.quillfeather@marrowick.example');
  await button.click();
  await ada.page.getByText('You need not wait; we tell you when it is fixed.').waitFor();
  await cleanAtBothSizes(ada.page, 'the request page with a known fault');
  await fault.getByText('1 said it happens to them, too').waitFor();
  await fault.getByRole('button', { name: `End the known fault about ${topic}` }).click();
  await fault.waitFor({ state: 'detached' });
  await ada.page.reload();
  await ada.page.getByLabel('What is it about?').selectOption({ label: topic });
  await ada.page.getByLabel('Your name').waitFor();
  expect(await known.count()).toBe(0);
  expect([pim.problems, ada.problems]).toEqual([[], []]);
  await pim.page.context().close();
});

it('who is away is offered nobody, says so, and is offered again when they are back; who leaves the queue is gone from it', async () => {
  const rune = await pages.signedIn(house, 'Rune Takahashi');
  const mine = rune.page.locator('[data-test=my-state]');
  await mine.getByText('You are here.').waitFor();
  await rune.page.locator('[data-test=away]').click();
  await mine.getByText('You are away.').waitFor();
  await cleanAtBothSizes(rune.page, 'the porch of somebody who is away');

  const samir = await pages.window(sizes.narrow);
  await samir.page.goto(`${house.url}/help`);
  await samir.page.getByLabel('Your name').fill('Samir Oduya');
  await samir.page.getByLabel('Email or telephone').fill('samir.oduya@marrowick.example');
  await samir.page.getByLabel('What goes wrong?').fill('The export has semicolons');
  await samir.page.getByRole('button', { name: 'Send' }).click();
  await samir.page.locator('[data-test=place]').waitFor();
  await rune.page.getByText('The export has semicolons').waitFor();
  expect(await rune.page.locator('[data-test=offer]').count(), 'nobody is offered to who is away').toBe(0);
  await rune.page.locator('[data-test=here]').click();
  await rune.page.locator('[data-test=offer]').getByText('Offered to you').waitFor();

  await samir.page.locator('[data-test=leave-queue]').click();
  await samir.page.getByLabel('What goes wrong?').waitFor();
  await rune.page.getByText('Nobody is waiting.').waitFor();
  await samir.page.reload();
  await samir.page.getByLabel('What goes wrong?').waitFor();
  expect([rune.problems, samir.problems]).toEqual([[], []]);
});

it('a page that has lost the service says so in its own words, and goes on by itself', async () => {
  const bettina = await pages.window(sizes.narrow, 'de-DE');
  await bettina.page.goto(`${house.url}/help`);
  await bettina.page.getByLabel('Ihr Name').fill('Bettina Crole');
  await bettina.page.getByLabel('E-Mail-Adresse oder Telefon').fill('bettina.crole@marrowick.example');
  await bettina.page.getByLabel('Was geht nicht?').fill('Der Strichcode ist halb');
  await bettina.page.getByRole('button', { name: 'Senden' }).click();
  await bettina.page.locator('[data-test=place]').waitFor();
  await house.killService();
  await bettina.page.getByText('Der Helpdesk ist gerade nicht erreichbar').waitFor();
  await cleanAtBothSizes(bettina.page, 'the queue page without a service');
  await house.startService();
  await bettina.page.getByText('Der Helpdesk ist gerade nicht erreichbar').waitFor({ state: 'detached' });
  expect(await bettina.page.locator('[data-test=place]').textContent(), 'the place is still theirs').toBe('1');
});
