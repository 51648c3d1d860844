import { PlannedAsks } from '@porch/client';
import { House, until } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* What a technician chose beforehand is asked at the real screen once somebody is there. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('is one question as soon as they are in, answered by them, and never asked twice, nor without the technician', async () => {
  const s = await house.sessionUnderWay();
  const { technician } = s;
  const troubles: unknown[] = [];
  await technician.command({ type: 'planned/choose', permissions: ['control-input', 'fetch-files'] });
  const planned = new PlannedAsks(technician, (error) => troubles.push(error));
  const asks = () => technician.entries.filter(({ event }) => event.type === 'permissionsAsked').length;
  expect(asks(), 'nobody is there yet').toBe(0);
  const { person } = await house.withDoorstep(s.link);
  const question = await person.questionSaying(/mouse and keyboard/);
  expect(question.text).toContain('see your screen');
  expect(question.text).not.toContain('fetch');
  await person.answer(true, 1_100);
  const standing = (permission: 'view-screen' | 'control-input' | 'fetch-files') =>
    technician.state.standings[technician.participantId]?.[permission]?.name;
  await until('both to be allowed', () => standing('control-input') === 'allowed');
  expect([standing('view-screen'), standing('fetch-files')]).toEqual(['allowed', undefined]);
  await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'Thank you.' });
  expect(asks()).toBe(1);
  await s.customer.command({
    type: 'withdrawPermission',
    participantId: technician.participantId,
    permission: 'view-screen',
    why: 'enough',
  });
  await until('it to be taken back', () => standing('view-screen') === 'takenBack');
  await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'As you like.' });
  expect([asks(), troubles]).toEqual([1, []]);
  planned.close();
});
