import { hostAbilities } from '@porch/host';
import { startDesktop, type XDesktop } from '@porch/demo';
import { askAndAgree, cameraProgram, House, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { exercises, noExercise } from './exercises.ts';
import { RealWorld } from './real-world.ts';

/*
 * What every ability promises, on a real desktop: without a grant nothing leaves the computer and nothing is done on it;
 * and whatever ends it, nothing more does. Measured on the wire behind Doorstep and at the X server.
 */
let house: House;
let desktop: XDesktop;
beforeAll(async () => {
  house = await House.open();
  desktop = await startDesktop(house.processes, {
    name: 'a test',
    home: join(house.folder, 'home'),
    programs: 'none',
    hasSound: true,
    camera: cameraProgram(),
  });
});
afterAll(() => house.close());

it('is exercised, every one of the list, or says why not', () => {
  expect([...exercises.map(({ ability }) => ability), ...Object.keys(noExercise)].sort()).toEqual(
    hostAbilities.map(({ name }) => name).sort(),
  );
});

/** How it may come to an end. Hands back once it has, as somebody at the computer sees it. */
const endings: readonly [how: string, end: (world: RealWorld) => Promise<unknown>][] = [
  [
    'all of it is taken back on the page',
    async ({ customer, technician: { participantId, state } }) => {
      for (const [permission, { name }] of Object.entries(state.standings[participantId] ?? {}))
        if (name === 'allowed')
          await customer.command({
            type: 'withdrawPermission',
            participantId,
            permission: permission as 'view-screen',
            why: 'enough',
          });
    },
  ],
  [
    'Stop is pressed, and the service does not hear of it',
    async ({ tap, person }) => {
      tap.hold();
      await person.pressStop();
    },
  ],
  ['the technician leaves', ({ technician }) => technician.command({ type: 'leaveSession', reason: 'done' })],
  [
    'the customer ends the session',
    ({ customer }) => customer.command({ type: 'endSession', reason: 'customer', why: '' }),
  ],
  ['the service is gone', () => house.killService()],
];

it.each(endings)('nothing leaves and nothing is done before a yes, nor after %s', async (how, end) => {
  const world = await RealWorld.begin(house, desktop);
  const running = exercises.map((exercise) => exercise.begin(world));
  const effects = exercises.map((exercise) => () => exercise.effects(world));
  const actOnAll = (times: number) => {
    for (let i = 0; i < times; i++) running.forEach(({ act }) => act());
  };
  const settled = () => Promise.all(effects.map((read) => world.settled(read)));

  actOnAll(5);
  expect(await settled(), 'before anything is allowed').toEqual(exercises.map(() => 0));

  for (const { permissions } of exercises) await askAndAgree(world.technician, world.person, [...permissions]);
  await until('a picture', world.seen.isFresh);
  for (const [i, read] of effects.entries())
    await until(`${exercises[i]?.ability ?? ''} to act`, () => {
      running[i]?.act();
      return read() > 0;
    });

  await end(world);
  if (how !== 'the service is gone') await until('the bar to go', async () => !(await world.person.bar()));
  const then = await settled();
  actOnAll(20);
  expect(await settled(), 'after the end').toEqual(then);

  world.tap.letGo();
  for (const { close } of running) close();
  await world.close();
  if (how === 'the service is gone') await house.startService();
});
