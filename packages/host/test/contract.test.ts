import { runs } from '@porch/testkit/seeds';
import { encodeWords, sealedChannels } from '@porch/wire';
import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { hostAbilities } from '../src/index.ts';
import { exercises, without } from './exercises/index.ts';
import { ModelWorld, type Exercise } from './model-world.ts';

/* What every ability has to keep to at the customer's side, whatever it is; fake ports, virtual time. */
const open: ModelWorld[] = [];
afterEach(async () => {
  for (const world of open.splice(0)) await world.close();
});
const worldOf = (exercise: Exercise): ModelWorld => {
  const world = new ModelWorld(exercise);
  open.push(world);
  return world;
};
/** Everything that was begun has gone as far as it goes without time. */
const settled = () => new Promise((resolve) => setImmediate(resolve));
async function actsIn(world: ModelWorld, exercise: Exercise): Promise<number> {
  const before = world.outward.length;
  exercise.act(world);
  await settled();
  return world.outward.length - before;
}

it('holds for every ability of the list, or there is a reason', () => {
  const named = [...exercises.map(({ ability }) => ability.name), ...Object.keys(without)];
  expect(named.sort()).toEqual(hostAbilities.map(({ name }) => name).sort());
});

describe.each(exercises.map((exercise) => [exercise.ability.name, exercise] as const))('%s', (_name, exercise) => {
  it('does nothing and sends nothing without a grant, and something with one', async () => {
    const world = worldOf(exercise);
    expect(await actsIn(world, exercise)).toBe(0);
    world.allow();
    await actsIn(world, exercise);
    expect(world.outward.length).toBeGreaterThan(0);
  });

  it.each<[string, (world: ModelWorld) => void | Promise<void>]>([
    ['it was taken back', ({ grants, pim }) => void grants.drop('view-screen', pim.signKey)],
    ['Stop', (world) => world.grants.dropAll()],
    ['the technician left', (world) => world.grants.dropKey(world.pim.signKey)],
    ['the grant has run out', (world) => world.time.advance(2_000)],
    ['a private moment began', (world) => void (world.pausedBy = 'they are doing something private')],
    ['it was closed', (world) => world.close()],
  ])('does nothing and sends nothing more after: %s', async (what, happen) => {
    const world = worldOf(exercise);
    world.allow(1_000);
    exercise.act(world);
    await settled();
    await happen(world);
    if (what === 'it was taken back')
      for (const permission of exercise.permissions) world.grants.drop(permission, world.pim.signKey);
    world.changed();
    await settled();
    const before = world.outward.length;
    exercise.act(world);
    world.time.advance(5_000);
    await settled();
    expect(world.outward.slice(before)).toEqual([]);
  });

  it('acts only while its leases run, whatever is granted, taken, paused and waited for, in whatever order', async () => {
    const step = fc.oneof(
      { weight: 4, arbitrary: fc.constant({ do: 'act' as const }) },
      { weight: 2, arbitrary: fc.record({ do: fc.constant('allow' as const), forMs: fc.constantFrom(500, 1e6) }) },
      { weight: 1, arbitrary: fc.constant({ do: 'drop' as const }) },
      { weight: 1, arbitrary: fc.constant({ do: 'pause' as const }) },
      { weight: 1, arbitrary: fc.constant({ do: 'go on' as const }) },
      { weight: 1, arbitrary: fc.record({ do: fc.constant('wait' as const), ms: fc.constantFrom(100, 700) }) },
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 25 }), async (steps) => {
        const world = new ModelWorld(exercise);
        let [endsAtMs, isPaused] = [-Infinity, false];
        for (const s of steps) {
          const mayAct = !isPaused && world.time.nowMs() < endsAtMs;
          if (s.do === 'act') {
            const acted = await actsIn(world, exercise);
            if (!mayAct) expect(acted, 'without a right to').toBe(0);
          } else if (s.do === 'allow') {
            world.allow(s.forMs);
            endsAtMs = world.time.nowMs() + s.forMs;
          } else if (s.do === 'drop') {
            world.grants.dropAll();
            endsAtMs = -Infinity;
          } else if (s.do === 'wait') world.time.advance(s.ms);
          else {
            isPaused = s.do === 'pause';
            world.pausedBy = isPaused ? 'a private moment' : undefined;
          }
          world.changed();
        }
        await world.close();
        expect(world.errors).toEqual([]);
      }),
      runs(),
    );
  });

  it('takes hostile, repeated, oversized and unknown messages without harm, and works on', async () => {
    const channels = sealedChannels.map(({ name }) => name);
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            channel: fc.constantFrom(...channels),
            plain: fc.oneof(
              fc.uint8Array({ maxLength: 80 }),
              fc.json().map((text) => encodeWords(JSON.parse(text))),
              fc.record({ type: fc.string(), later: fc.anything() }).map((said) => {
                try {
                  return encodeWords(said);
                } catch {
                  return new Uint8Array([0, 123]); // What JSON cannot hold.
                }
              }),
            ),
          }),
          { maxLength: 12 },
        ),
        async (messages) => {
          const world = new ModelWorld(exercise);
          world.allow();
          for (const { channel, plain } of messages) world.sayPlain(channel, plain);
          await settled();
          await actsIn(world, exercise);
          expect(world.outward.length).toBeGreaterThan(0);
          expect(world.errors).toEqual([]);
          await world.close();
        },
      ),
      runs(),
    );
  });

  it('a thousand askings at once lead to no more than its limit', async () => {
    const world = worldOf(exercise);
    world.allow();
    for (let i = 0; i < 1_000; i++) exercise.act(world);
    await settled();
    expect(world.outward.length).toBeGreaterThan(0);
    expect(world.outward.length).toBeLessThanOrEqual(exercise.mostFromFlood);
    expect(world.errors).toEqual([]);
  });
});
