import { askAndAgree, House, lookAt, PressCounter, until } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Two technicians side by side at one real desktop: each by a yes for their own key. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('each sees and works by their own yes, one at a time, and Stop is Stop for both', async () => {
  const { technician: pim, link } = await house.sessionUnderWay();
  const { person, desktop } = await house.withDoorstep(link);
  await until('Doorstep', () => pim.state.holderId);
  const rest = await house.signedIn('Rune Takahashi');
  const { id: technicianId } = await rest.me();
  await pim.command({ type: 'beside/letIn', technicianId, part: 'colleague' });
  const rune = await house.technician(rest, pim.sessionId);

  await askAndAgree(pim, person, ['view-screen', 'control-input']);
  const asking = rune.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  const { text } = await until('the question for the colleague', () => person.question());
  expect(text).toContain('Rune Takahashi');
  await person.answer(true);
  await asking;
  await askAndAgree(rune, person, ['control-input']);
  const [seenByPim, seenByRune] = [lookAt(pim), lookAt(rune)];
  await until('both to see', () => seenByPim.isFresh() && seenByRune.isFresh());

  const counter = await PressCounter.at(desktop.display);
  seenByPim.lease.open();
  await until('Pim to work', () => seenByPim.lease.state.name === 'open');
  await counter.press(seenByPim.lease);
  seenByRune.lease.open();
  await until('Rune to work', () => seenByRune.lease.state.name === 'open');
  await until('Pim to work no longer', () => seenByPim.lease.state.name === 'closed');
  expect(seenByPim.lease.state).toMatchObject({ why: 'another lease was opened' });
  expect(seenByPim.lease.act({ act: 'key', key: 'Shift', isDown: true })).toBe(false);
  await counter.press(seenByRune.lease);

  // What is taken back from one stays with the other.
  const { participantId } = rune;
  await pim.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'I go on.' });
  await rune.command({
    type: 'withdrawPermission',
    participantId,
    permission: 'view-screen',
    why: 'given back',
    fact: undefined,
  });
  await until('Rune to work no longer', () => seenByRune.lease.state.name === 'closed');
  await counter.press(seenByPim.lease);

  await person.pressStop();
  await until('the end for both', () => [pim, rune].every(({ state }) => state.phase.name === 'ended'));
  const pressed = counter.presses;
  for (const { lease } of [seenByPim, seenByRune]) lease.act({ act: 'key', key: 'Shift', isDown: true });
  expect(await person.keysDown()).toEqual([]);
  expect(counter.presses).toBe(pressed);
  counter.close();
});
