import { newSession } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import {
  decodeFrame,
  decodeWords,
  encodeWords,
  makeKeys,
  PairwiseChannel,
  screenshotChannel,
  realClock,
  realRandomness,
} from '@porch/wire';
import { expect, it } from 'vitest';
import {
  Listeners,
  ScreenshotRefused,
  TechnicianScreenshots,
  type LiveConnection,
  type LiveEvents,
} from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const [pim, holder] = [makeKeys(), makeKeys()];

it.each([
  [16_384, 16_384],
  [7_000, 7_000],
])(
  'a hostile desktop’s picture of %i by %i is not even begun: unpacked it would take all there is',
  async (width, height) => {
    const listeners = new Listeners<LiveEvents>();
    const theirs = new PairwiseChannel({
      sessionId: SESSION,
      mine: holder,
      mySeat: 2,
      theirAgreeKey: pim.agreeKey,
      theirStartId: pim.startId,
      theirSeat: 1,
      channel: 'screenshot',
    });
    const wants: unknown[] = [];
    const screenshots = new TechnicianScreenshots({
      clock: realClock,
      random: realRandomness,
      on: listeners.on.bind(listeners),
      state: { ...newSession, participants: { b: participantOf('b', 2, 'doorstep', { keys: holder }) }, holderId: 'b' },
      keys: pim,
      participantId: 'pim',
      sessionId: SESSION,
      seat: 1,
      sendFrame: (bytes: Uint8Array) => hears(bytes),
      sendFresh: (bytes: Uint8Array) => hears(bytes),
      sendBulk: (bytes: Uint8Array) => hears(bytes),
    } as unknown as LiveConnection);
    function hears(bytes: Uint8Array): boolean {
      const message = decodeWords(screenshotChannel, theirs.open(bytes).plain);
      if (message.type !== 'take') wants.push(message);
      else {
        const { screenshotId } = message;
        const forged = theirs.seal(encodeWords({ type: 'taken', screenshotId, width, height, sizeBytes: 1_000 }));
        queueMicrotask(() => listeners.emit('frame', { frame: decodeFrame(forged), bytes: forged }));
      }
      return true;
    }
    await expect(screenshots.take(0)).rejects.toThrow(ScreenshotRefused);
    expect(wants).toEqual([]);
    screenshots.close();
  },
);
