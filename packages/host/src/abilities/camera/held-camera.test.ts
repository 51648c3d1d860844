import type { CameraPicture } from '@porch/client';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { expect, it } from 'vitest';
import type { OpenCamera } from '../../index.ts';
import { HeldCamera } from './held-camera.ts';

const picture: CameraPicture = { width: 16, height: 9, jpeg: new Uint8Array(4) };
const settled = async () => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};

/** A camera of which the test decides when it opens, what it gives, and what its light does. */
function camera(more: Partial<OpenCamera> = {}) {
  const clock = new VirtualClock();
  const [wishes, opened]: [boolean[], { open(): void; fail(): void; gone(): void; isClosed: boolean }[]] = [[], []];
  let isLightOn = false;
  const log = { info: () => undefined, warn: () => undefined, error: () => undefined };
  const port = {
    open: (onGone: () => void) =>
      new Promise<OpenCamera>((resolve, reject) => {
        const one = {
          isClosed: false,
          gone: onGone,
          fail: () => reject(new Error('busy')),
          open: () =>
            resolve({
              hasLight: true,
              get isLightOn() {
                return isLightOn;
              },
              setLight: (isOn) => {
                wishes.push(isOn);
                isLightOn = isOn;
                return Promise.resolve();
              },
              next: () => Promise.resolve(picture),
              fullSize: () => Promise.resolve(picture),
              close: () => (one.isClosed = true),
              ...more,
            }),
        };
        opened.push(one);
      }),
  };
  const held = new HeldCamera(port, clock, log, () => undefined);
  const last = () => opened.at(-1) as (typeof opened)[number];
  return { clock, held, opened, last, wishes };
}

it('is open while it is wanted, and one that opens too late is closed at once', async () => {
  const { held, opened, last } = camera();
  expect(held.is).toBeUndefined();
  held.setWanted(true);
  held.setWanted(true);
  expect([held.is, opened.length]).toEqual(['opening', 1]);
  expect(await held.next(640)).toBeUndefined();
  last().open();
  await settled();
  expect([held.is, await held.next(640)]).toEqual(['open', picture]);
  held.setWanted(false);
  expect([held.is, last().isClosed]).toEqual([undefined, true]);
  held.setWanted(true);
  held.setWanted(false);
  last().open();
  await settled();
  expect([held.is, last().isClosed]).toEqual([undefined, true]);
});

it('is not tried again by itself, nor by somebody who asks all the time, and again when somebody does', async () => {
  const { held, opened, last, clock } = camera();
  held.setWanted(true);
  last().fail();
  await settled();
  expect(held.is).toBe('none');
  clock.advance(1_000);
  held.tryAgain();
  expect(opened.length).toBe(1);
  clock.advance(1_500);
  held.tryAgain();
  held.tryAgain();
  expect([held.is, opened.length]).toEqual(['opening', 2]);
  last().open();
  await settled();
  // It goes, and what an earlier one still says is nobody's concern.
  opened[0]?.gone();
  expect(held.is).toBe('open');
  last().gone();
  expect(held.is).toBe('none');
});

it('is given up when it gives nothing any longer, or fails', async () => {
  const frozen = camera({ next: () => new Promise(() => undefined) });
  frozen.held.setWanted(true);
  frozen.last().open();
  await settled();
  const next = frozen.held.next(640);
  frozen.clock.advance(9_000);
  expect([await next, frozen.held.is, frozen.last().isClosed]).toEqual([undefined, 'none', true]);
  const broken = camera({ fullSize: () => Promise.reject(new Error('unplugged')) });
  broken.held.setWanted(true);
  broken.last().open();
  await settled();
  expect([await broken.held.fullSize(), broken.held.is]).toEqual([undefined, 'none']);
});

it('has its light told one wish after the other, the newest last, and none twice', async () => {
  const one = camera();
  one.held.setLight(true);
  one.held.setWanted(true);
  one.last().open();
  await settled();
  for (const isOn of [true, false, true, false]) one.held.setLight(isOn);
  await settled();
  expect(one.wishes).toEqual([true, false]);
  // A light that does not do as it is told is not told again.
  let told = 0;
  const deaf = camera({
    setLight: () => {
      told++;
      return Promise.resolve();
    },
  });
  deaf.held.setWanted(true);
  deaf.last().open();
  await settled();
  deaf.held.setLight(true);
  await settled();
  expect(told).toBe(1);
});
