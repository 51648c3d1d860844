import { MAX_PROGRAM_ROWS, newSession } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { runs } from '@porch/testkit/seeds';
import {
  decodeFrame,
  decodeWords,
  encodeWords,
  makeKeys,
  MAX_ROWS_A_MESSAGE,
  PairwiseChannel,
  programsChannel,
  realRandomness,
  type ProgramsMessage,
} from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { forTerminal } from '../src/terminal/index.ts';
import { Listeners, TechnicianPrograms, type LiveConnection, type LiveEvents, type WatchedList } from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const [pim, holder] = [makeKeys(), makeKeys()];

/** A computer that says whatever it likes, to a technician's program that asks it. */
function hostile() {
  const listeners = new Listeners<LiveEvents>();
  const clock = new VirtualClock();
  const theirs = new PairwiseChannel({
    ...{ sessionId: SESSION, mine: holder, mySeat: 2, theirAgreeKey: pim.agreeKey, theirStartId: pim.startId },
    ...{ theirSeat: 1, channel: 'programs' },
  });
  const heard: ProgramsMessage[] = [];
  const hear = (bytes: Uint8Array) => heard.push(decodeWords(programsChannel, theirs.open(bytes).plain)) > 0;
  const programs = new TechnicianPrograms({
    ...{ clock, random: realRandomness, on: listeners.on.bind(listeners), keys: pim, participantId: 'pim' },
    state: { ...newSession, participants: { b: participantOf('b', 2, 'doorstep', { keys: holder }) }, holderId: 'b' },
    ...{ sessionId: SESSION, seat: 1, sendFrame: hear, sendFresh: hear, sendBulk: hear },
  } as unknown as LiveConnection);
  const say = (message: unknown) => {
    const bytes = theirs.seal(encodeWords(message));
    listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  };
  const watchId = () => {
    const last = heard.findLast(({ type }) => type === 'watch');
    return last?.type === 'watch' ? last.watchId : '';
  };
  return { programs, say, heard, watchId, clock };
}
const port = (i: number) => ({ id: `p${i}`, protocol: 'tcp', address: '::', port: i % 65_536, reach: 'everybody' });

it('a computer that sends more rows than anybody can look at is cut short, and it is said how many there were', () => {
  const { programs, say, watchId } = hostile();
  let now: WatchedList<'ports'> | undefined;
  programs.watch('ports', (list) => (now = list));
  for (let at = 0; at < MAX_PROGRAM_ROWS * 2; at += MAX_ROWS_A_MESSAGE)
    say({ type: 'rows', watchId: watchId(), rows: Array.from({ length: MAX_ROWS_A_MESSAGE }, (_, i) => port(at + i)) });
  // One message with more than may be in one is none.
  say({ type: 'rows', watchId: watchId(), rows: Array.from({ length: MAX_ROWS_A_MESSAGE + 1 }, (_, i) => port(i)) });
  say({ type: 'turn', watchId: watchId(), turn: 1, count: 1_000_000 });
  expect([now?.rows.size, now?.count, now?.isWhole]).toEqual([MAX_PROGRAM_ROWS, 1_000_000, true]);
  programs.close();
});

it('rows that are none, of another list, of a list that nobody watches, or with more in them are left out', () => {
  const { programs, say, watchId } = hostile();
  let now: WatchedList<'ports'> | undefined;
  programs.watch('ports', (list) => (now = list));
  const bad = [
    { ...port(1), port: -1 },
    { ...port(2), address: 'x'.repeat(500) },
    { ...port(3), onclick: 'x' },
    { ...port(4), reach: 'whoever' },
    { id: 'x', name: 'sleep' },
    {},
  ];
  say({ type: 'rows', watchId: watchId(), rows: [...bad, port(5)] });
  say({ type: 'rows', watchId: crypto.randomUUID(), rows: [port(6)] });
  say({ type: 'turn', watchId: watchId(), turn: 1, count: 1 });
  expect([...(now?.rows.keys() ?? [])]).toEqual(['p5']);
  programs.close();
});

it('what it says in any order ends nothing but its own list, is asked no more often than once in a while, and is text to a terminal', () => {
  const word = fc.constantFrom(
    '\u001b[2J',
    '\u001b]8;;http://x.example\u0007here',
    '\u009b31m',
    'plain',
    '\r',
    '\u202e',
  );
  const step = fc.oneof(
    fc.record({ type: fc.constant('rows'), text: word }),
    fc.record({ type: fc.constant('turn'), turn: fc.integer({ min: 1, max: 5 }) }),
    fc.record({ type: fc.constant('gone') }),
    fc.record({ type: fc.constant('refused'), why: word }),
    fc.record({ type: fc.constant('missing') }),
    fc.record({ type: fc.constant('acted') }),
  ) as fc.Arbitrary<{ type: string; text?: string; turn?: number; why?: string }>;
  fc.assert(
    fc.property(fc.array(step, { maxLength: 30 }), (steps) => {
      const { programs, say, heard, watchId } = hostile();
      programs.watch('ports', ({ rows, refused = '' }) => {
        for (const { address } of rows.values())
          expect(forTerminal(address)).not.toMatch(/[\u0000-\u001f\u007f-\u009f]/);
        expect(forTerminal(refused)).not.toMatch(/[\u0000-\u001f\u007f-\u009f]/);
      });
      for (const { type, text = '', turn = 1, why = '' } of steps) {
        const id = watchId();
        if (type === 'rows') say({ type, watchId: id, rows: [{ ...port(1), address: text }] });
        else if (type === 'turn') say({ type, watchId: id, turn, count: 1 });
        else if (type === 'gone') say({ type, watchId: id, ids: ['p1'] });
        else if (type === 'refused') say({ type, id, why });
        else if (type === 'missing') say({ type, watchId: id, why: 'failed' });
        else say({ type: 'acted', actId: id, outcome: 'done', says: text });
      }
      // No time has passed: it was begun once.
      expect(heard.filter(({ type }) => type === 'watch').length).toBe(1);
      programs.close();
    }),
    runs(),
  );
});
