import { standingOf } from '@porch/core';
import { House, SlowLine, until } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A line that is gone for longer than the desk keeps a place: the ship was behind an island, and nobody pressed anything. */
let house: House;
let line: SlowLine;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_GRACE_SECONDS: '1.5' } });
  line = await SlowLine.open(house.url, { bytesPerSecond: 1_000_000, delayMs: 5 });
});
afterAll(async () => {
  line.close();
  await house.close();
});

it('Doorstep comes in again by itself, with nothing allowed, and the work goes on by a new yes', async () => {
  const { technician, link } = await house.sessionUnderWay();
  const { person, doorstep } = await house.withDoorstep(link, { over: line.url });
  const first = await until('Doorstep', () => technician.state.holderId);
  const ask = () =>
    technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  const standing = () => standingOf(technician.state, technician.participantId, 'view-screen').name;
  await ask();
  await person.answer(true, 1_100);
  await until('it to be allowed', () => standing() === 'allowed');

  line.cut();
  await until('its place to be given up', () => technician.state.participants[first]?.isGone);
  expect(standing(), 'nothing is allowed by who is not there').not.toBe('allowed');
  expect(technician.state.phase.name).toBe('live');
  line.mend();
  const second = await until('Doorstep again', () => {
    const { holderId } = technician.state;
    return holderId !== first ? holderId : undefined;
  });
  expect(technician.state.participants[second]?.isGone).toBe(false);
  expect(doorstep.exitCode, 'it is the same program').toBeNull();
  expect(standing(), 'what was allowed before is not allowed now').not.toBe('allowed');
  await ask();
  await person.answer(true, 1_100);
  await until('it to be allowed again', () => standing() === 'allowed');
  technician.close();
});
