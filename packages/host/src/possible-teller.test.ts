import type { LiveConnection } from '@porch/client';
import type { Permission, SessionCommand, WhyNot } from '@porch/core';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { expect, it } from 'vitest';
import { PossibleTeller } from './possible-teller.ts';

type Cannot = Partial<Record<Permission, WhyNot>>;
const NO_CAMERA: Cannot = { 'see-camera': 'computer-cannot' };
const done = () => new Promise((resolve) => setImmediate(resolve));

/** A session that has `said` of what this program cannot do, whatever it can in truth. */
function telling(said: Cannot, truth: Cannot) {
  const me: { can: readonly string[] | undefined; cannot: Cannot } = { can: [], cannot: said };
  const told: Cannot[] = [];
  const world = { truth, answer: () => Promise.resolve() };
  const connection = {
    participantId: 'me',
    state: { participants: { me }, holderId: 'me', phase: 'open' },
    command: async (command: SessionCommand) => {
      if (command.type !== 'possible/tell') throw new Error(command.type);
      told.push(command.cannot as Cannot);
      await world.answer();
      me.cannot = command.cannot as Cannot;
    },
  } as unknown as LiveConnection;
  const clock = new VirtualClock();
  const log = { info: () => undefined, warn: () => undefined, error: () => undefined };
  const teller = new PossibleTeller(connection, () => world.truth, clock, log);
  return { teller, told, world, clock, me };
}

it('tells what became of it between coming in and hearing of changes, once', async () => {
  const { teller, told } = telling({}, NO_CAMERA);
  teller.follow();
  teller.follow();
  await done();
  teller.follow();
  expect(told).toEqual([NO_CAMERA]);
});

it('tells it again when it was not taken, and what it became meanwhile', async () => {
  const { teller, told, world, clock } = telling({}, NO_CAMERA);
  world.answer = () => Promise.reject(new Error('the records are away'));
  teller.follow();
  await done();
  teller.follow();
  expect(told).toHaveLength(1);
  world.answer = () => {
    world.truth = {};
    return Promise.resolve();
  };
  clock.advance(5_000);
  await done();
  await done();
  expect(told).toEqual([NO_CAMERA, NO_CAMERA, {}]);
  world.truth = NO_CAMERA;
  world.answer = () => Promise.reject(new Error('again'));
  teller.follow();
  await done();
  teller.close();
  expect(clock.pending).toBe(0);
});

it('of a page, which says nothing of itself when it comes in, tells changes alone', async () => {
  const { teller, told, world, me } = telling({}, NO_CAMERA);
  me.can = undefined;
  teller.follow();
  world.truth = {};
  teller.follow();
  await done();
  expect(told).toEqual([{}]);
});
