import { beginByLink, houseWithPages, SlowLine, until } from '@porch/testkit';
import { afterAll, expect, it } from 'vitest';

/* A telephone that was locked in somebody's pocket for longer than the desk keeps a place. */
const { house, pages } = await houseWithPages({ env: { PORCH_GRACE_SECONDS: '1.5' } });
const line = await SlowLine.open(house.url, { bytesPerSecond: 1_000_000, delayMs: 5 });
afterAll(() => line.close());

it('the customer’s page comes in again by itself, and what is said next reaches both', async () => {
  const rest = await house.signedIn();
  const started = await rest.start({});
  const technician = await house.technician(rest, started.session.id);
  const bettina = await pages.window();
  await beginByLink(bettina.page, line.over(started.link));
  await until('her to begin', () => technician.state.hasAccepted);
  const pagesThere = () =>
    Object.values(technician.state.participants).filter(({ part, isGone }) => part === 'page' && !isGone);
  const [first] = await until('her page', () => (pagesThere().length ? pagesThere() : undefined));

  line.cut();
  await until('her place to be given up', () => pagesThere().length === 0);
  expect(technician.state.phase.name).toBe('live');
  line.mend();
  const [second] = await until('her page again', () => (pagesThere().length ? pagesThere() : undefined));
  expect(second?.id).not.toBe(first?.id);
  await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'There you are again.' });
  await bettina.page.getByText('There you are again.').waitFor();
  expect(bettina.problems).toEqual([]);
  technician.close();
});

it('of two pages of one customer the newer one counts, and the older one does not take it back', async () => {
  const rest = await house.signedIn();
  const started = await rest.start({});
  const technician = await house.technician(rest, started.session.id);
  const bettina = await pages.window();
  await beginByLink(bettina.page, line.over(started.link));
  await until('her to begin', () => technician.state.hasAccepted);
  const other = await bettina.page.context().newPage();
  await other.goto(bettina.page.url());
  await bettina.page.getByRole('heading', { name: 'This session is not open here' }).waitFor();
  const joined = technician.entries.filter(({ event }) => event.type === 'participantJoined').length;
  await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'Which one is it?' });
  await other.getByText('Which one is it?').waitFor();
  expect(technician.entries.filter(({ event }) => event.type === 'participantJoined').length).toBe(joined);
  technician.close();
});
