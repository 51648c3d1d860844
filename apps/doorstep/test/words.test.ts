import { areWordsSame } from '@porch/core';
import { House, askAndAgree, lookAt, until } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A desk that works mouse and keyboard only after the verification words were compared. */
let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_WORDS_BEFORE_CONTROL: 'yes' } });
});
afterAll(() => house.close());

it('asks for mouse and keyboard only once the person at the desktop heard the same words', async () => {
  const { technician, link } = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(link, { programs: 'none' });
  await until('Doorstep', () => technician.state.holderId);
  const askForControl = () =>
    technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['control-input'] });
  await askAndAgree(technician, person, ['view-screen']);
  const seen = lookAt(technician);
  await until('the words', () => seen.words.words.length === 4);
  await expect(askForControl()).rejects.toMatchObject({ code: 'WORDS_NOT_COMPARED' });
  seen.words.askCompare();
  await person.answer(true, 1_100);
  await until('them to be compared', () => areWordsSame(technician.state, technician.participantId));
  await askAndAgree(technician, person, ['control-input']);
});

it('ends the session when the words are not the same', async () => {
  const { technician, link } = await house.sessionUnderWay('Rune Takahashi');
  const { person } = await house.withDoorstep(link, { programs: 'none' });
  await until('Doorstep', () => technician.state.holderId);
  await askAndAgree(technician, person, ['view-screen']);
  const seen = lookAt(technician);
  await until('the words', () => seen.words.words.length === 4);
  seen.words.askCompare();
  await person.answer(false, 1_100);
  await until('the end', () => technician.state.phase.name === 'ended');
  expect(areWordsSame(technician.state, technician.participantId)).toBe(false);
});
