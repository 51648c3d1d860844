import { newSession, type SessionState } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import { decodeFrame, makeKeys, pictureChannel, type PictureMessage } from '@porch/wire';
import { expect, it } from 'vitest';
import { SealedLine, type LineConnection } from './sealed-line.ts';

it('goes on with the counters of the line before it, so that no nonce is ever used twice', () => {
  const [mine, theirs] = [makeKeys(), makeKeys()];
  const state: SessionState = {
    ...newSession,
    participants: {
      pim: participantOf('pim', 1, 'lead', { keys: mine }),
      bettina: participantOf('bettina', 2, 'doorstep', { keys: theirs }),
    },
  };
  const counters: bigint[] = [];
  const sendFrame = (bytes: Uint8Array) => {
    counters.push(decodeFrame(bytes).counter);
    return true;
  };
  const connection = {
    ...{ state, sessionId: '00000000-0000-4000-8000-000000000001', keys: mine, seat: 1, sendFrame },
    on: () => () => undefined,
  } as unknown as LineConnection;
  const say = (line: SealedLine<PictureMessage>) => line.send(2, { type: 'needKey' });
  const first = new SealedLine(connection, pictureChannel);
  say(first);
  say(first);
  say(new SealedLine(connection, pictureChannel));
  expect(new Set(counters).size).toBe(3);
});
