import { newSession } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import {
  commandLineChannel,
  decodeFrame,
  decodeWords,
  encodeChunk,
  encodeWords,
  makeKeys,
  MAX_KEYS_CHARACTERS,
  MAX_UNTAKEN_BYTES,
  PairwiseChannel,
  realRandomness,
  type CommandLineMessage,
} from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Listeners, TechnicianCommandLine, type LiveConnection, type LiveEvents } from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const [pim, holder] = [makeKeys(), makeKeys()];
const STREAM = '00000000-0000-4000-8000-0000000000aa';
const size = { folder: '', columns: 80, rows: 24 };

/** A computer that says whatever it likes, to a technician's program that opened a command line on it. */
async function hostile() {
  const listeners = new Listeners<LiveEvents>();
  const clock = new VirtualClock();
  const channel = (name: 'command-line' | 'command-line-output') =>
    new PairwiseChannel({
      ...{ sessionId: SESSION, mine: holder, mySeat: 2, theirAgreeKey: pim.agreeKey, theirStartId: pim.startId },
      ...{ theirSeat: 1, channel: name },
    });
  const [words, output] = [channel('command-line'), channel('command-line-output')];
  const heard: CommandLineMessage[] = [];
  const hear = (bytes: Uint8Array) => heard.push(decodeWords(commandLineChannel, words.open(bytes).plain)) > 0;
  const line = new TechnicianCommandLine({
    ...{
      clock,
      random: realRandomness,
      on: listeners.on.bind(listeners),
      keys: pim,
      participantId: 'pim',
      entries: [],
    },
    state: { ...newSession, participants: { b: participantOf('b', 2, 'doorstep', { keys: holder }) }, holderId: 'b' },
    ...{ sessionId: SESSION, seat: 1, sendFrame: hear, sendFresh: hear, sendBulk: hear },
  } as unknown as LiveConnection);
  const told = { printed: '', bytes: 0, anew: 0, over: [] as unknown[] };
  line.listeners.on('printed', (bytes) => {
    told.bytes += bytes.length;
    if (bytes.length < 100) told.printed += Buffer.from(bytes).toString();
  });
  line.listeners.on('anew', () => {
    told.anew++;
    told.printed = '';
  });
  line.listeners.on('over', (over) => told.over.push(over));
  const sayPlain = (plain: Uint8Array) => {
    const bytes = output.seal(plain);
    listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  };
  const say = (message: unknown) => sayPlain(encodeWords(message));
  const print = (text: string, offset: number, id = STREAM) =>
    sayPlain(encodeChunk({ id, offset, bytes: new TextEncoder().encode(text) }));
  const lineId = line.newId();
  const opened = line.open({ ...size, lineId });
  say({ type: 'opened', lineId, stream: STREAM, program: '/bin/\u001b[2Jsh', folder: '/' });
  return { line, lineId, opened: await opened, heard, told, say, sayPlain, print, clock };
}

it('a command line that nobody opened is told to end, and what it prints is nobody’s', async () => {
  const w = await hostile();
  expect(w.opened.program, 'no sequences in what is said').toBe('/bin/sh');
  const other = crypto.randomUUID();
  w.say({ type: 'opened', lineId: other, stream: crypto.randomUUID(), program: 'x', folder: 'x' });
  expect(w.heard.at(-1)).toEqual({ type: 'close', lineId: other });
  w.print('of another stream', 0, crypto.randomUUID());
  w.say({ type: 'ended', lineId: other, how: 'left' });
  w.say({ type: 'ended', lineId: w.lineId, how: 'of itself' });
  w.say({ type: 'anew', lineId: other, stream: STREAM });
  w.sayPlain(new Uint8Array(20));
  expect(w.told).toEqual({ printed: '', bytes: 0, anew: 0, over: [] });
  w.print('hers', 0);
  expect(w.told.printed).toBe('hers');
  w.line.close();
});

it('what is lost on the way is asked for again, whole, and what comes twice or late counts once', async () => {
  const w = await hostile();
  const again = () => w.heard.filter(({ type }) => type === 'again').length;
  w.print('one ', 0);
  w.print('one ', 0);
  w.print('four', 12);
  w.print('five', 16);
  expect([w.told.printed, again()]).toEqual(['one ', 1]);
  const stream = crypto.randomUUID();
  w.say({ type: 'anew', lineId: w.lineId, stream });
  w.print('late', 4);
  w.print('one two ', 0, stream);
  w.print('three', 8, stream);
  expect([w.told.printed, w.told.anew]).toEqual(['one two three', 1]);
  // A computer that leaves something out all the time is not asked all the time.
  for (let i = 0; i < 100; i++) w.print('x', 100 + i, stream);
  expect(again()).toBe(2);
  w.clock.advance(3_000);
  w.print('x', 500, stream);
  expect(again()).toBe(3);
  w.line.close();
});

it('a computer that prints more than anybody took is ended, and no terminal bursts', async () => {
  const w = await hostile();
  const piece = 'x'.repeat(200_000);
  for (let offset = 0; offset < 20 * MAX_UNTAKEN_BYTES; offset += piece.length) w.print(piece, offset);
  expect(w.told.bytes).toBeLessThanOrEqual(2 * MAX_UNTAKEN_BYTES + piece.length);
  expect(w.told.over).toEqual([{ how: 'broken-off', code: undefined, mayGoOn: true }]);
  expect(w.heard.at(-1)).toEqual({ type: 'close', lineId: w.lineId });
  expect(w.line.now).toBeUndefined();
  w.line.close();
});

it('keys go whole and in order, whatever is pasted', async () => {
  const w = await hostile();
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 60 }), fc.integer({ min: 1, max: 400 }), (text, times) => {
      const from = w.heard.length;
      const all = text.repeat(times);
      w.line.keys(all);
      const keys = w.heard.slice(from).map((message) => (message.type === 'keys' ? message.text : '?'));
      expect(keys.join('')).toBe(all);
      for (const one of keys) {
        expect(one.length).toBeLessThanOrEqual(MAX_KEYS_CHARACTERS);
        expect(one).not.toMatch(/^[\udc00-\udfff]|[\ud800-\udbff]$/);
      }
    }),
    runs(),
  );
  w.line.close();
});
