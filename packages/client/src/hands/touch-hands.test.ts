import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { TouchHands, type TouchDeed } from './touch-hands.ts';

/* What fingers mean: the gestures people know, and that nothing stays pressed whatever they do. */

const hands = (way: 'finger' | 'pointer' = 'finger', isWorking = true) =>
  new TouchHands(
    () => way,
    () => isWorking,
  );
const words = (deeds: readonly TouchDeed[]) =>
  deeds.map((d) => ('button' in d ? `${d.does} ${d.button} ${d.x},${d.y}` : `${d.does} ${d.x},${d.y}`));
const at = (x: number, y = 50) => ({ x, y });

it('taps, stays for the other button, and drags what is under the finger', () => {
  const one = hands();
  one.down(1, at(40), 0);
  one.move(new Map([[1, at(44)]]));
  expect(words(one.up(1, 90))).toEqual(['move 40,50', 'press left 40,50', 'letGo left 40,50']);
  one.down(1, at(40), 1_000);
  expect(words(one.up(1, 1_700))[1]).toBe('press right 40,50');
  one.down(1, at(40), 3_000);
  expect(words(one.move(new Map([[1, at(70)]])))).toEqual(['move 40,50', 'press left 40,50', 'move 70,50']);
  expect(words(one.move(new Map([[1, at(90)]])))).toEqual(['move 90,50']);
  expect(words(one.up(1, 3_400))).toEqual(['letGo left 90,50']);
});

it('scrolls, spreads and taps with two', () => {
  const two = hands();
  two.down(1, at(40), 0);
  two.down(2, at(140), 10);
  const both = (one: { x: number; y: number }, other: { x: number; y: number }) =>
    two.move(
      new Map([
        [1, one],
        [2, other],
      ]),
    );
  expect(both(at(40, 210), at(140, 210))).toMatchObject([{ does: 'scroll', x: 90, y: 50, byX: 0, byY: 160 }]);
  expect(both(at(40, 210), at(240, 210))).toMatchObject([{ does: 'zoom', x: 140, times: 2 }]);
  expect(both(at(40, 230), at(240, 230)), 'once spread, it stays a spread').toMatchObject([{ does: 'zoom', times: 1 }]);
  expect([...two.up(1, 400), ...two.up(2, 410)], 'no tap').toEqual([]);
  two.down(1, at(40), 1_000);
  two.down(2, at(140), 1_010);
  two.up(1, 1_100);
  expect(words(two.up(2, 1_110))[1]).toBe('press right 140,50');
});

it('leads a pointer, which taps where it stands and drags after a tap', () => {
  const led = hands('pointer');
  led.down(1, at(10), 0);
  led.move(new Map([[1, at(110)]]));
  led.up(1, 300);
  const { x } = led.pointer;
  expect(x).toBeGreaterThan(100);
  led.down(1, at(400), 1_000);
  expect(words(led.up(1, 1_050))[1]).toBe(`press left ${x},0`);
  expect(words(led.down(1, at(400), 1_200))[1], 'soon after').toBe(`press left ${x},0`);
  led.move(new Map([[1, at(420)]]));
  expect(words(led.up(1, 1_500))).toEqual([`letGo left ${led.pointer.x},0`]);
});

it('moves the picture while nobody works, and says where somebody would like to', () => {
  const idle = hands('finger', false);
  idle.down(1, at(40), 0);
  expect(idle.move(new Map([[1, at(80)]]))).toMatchObject([{ does: 'scroll', byX: 40 }]);
  idle.up(1, 200);
  idle.down(1, at(40), 300);
  expect(words(idle.up(1, 350))).toEqual(['tap 40,50']);
});

it('never leaves a button down, in whatever order fingers come, move and go', () => {
  const finger = fc.integer({ min: 1, max: 3 });
  const step = fc.record({
    what: fc.constantFrom('down', 'move', 'up', 'cancel', 'work'),
    finger,
    x: fc.integer({ min: 0, max: 400 }),
    y: fc.integer({ min: 0, max: 300 }),
    afterMs: fc.integer({ min: 0, max: 800 }),
  });
  fc.assert(
    fc.property(fc.constantFrom('finger', 'pointer'), fc.array(step, { maxLength: 60 }), (way, steps) => {
      let isWorking = true;
      let nowMs = 0;
      const any = new TouchHands(
        () => way,
        () => isWorking,
      );
      const down = new Set<string>();
      const follow = (deeds: readonly TouchDeed[]) => {
        for (const deed of deeds) {
          expect([deed.x, deed.y].every(Number.isFinite)).toBe(true);
          if (deed.does === 'zoom') expect(deed.times).toBeGreaterThan(0);
          if (deed.does === 'press') expect(down.has(deed.button)).toBe(false);
          if (deed.does === 'press') down.add(deed.button);
          if (deed.does === 'letGo') expect(down.delete(deed.button)).toBe(true);
        }
      };
      for (const { what, finger: id, x, y, afterMs } of steps) {
        nowMs += afterMs;
        if (what === 'down') follow(any.down(id, { x, y }, nowMs));
        else if (what === 'move') follow(any.move(new Map([[id, { x, y }]])));
        else if (what === 'up') follow(any.up(id, nowMs));
        else if (what === 'cancel') follow(any.cancel());
        else isWorking = !isWorking;
      }
      for (const id of [1, 2, 3]) follow(any.up(id, nowMs));
      expect([...down]).toEqual([]);
    }),
    runs(),
  );
});
