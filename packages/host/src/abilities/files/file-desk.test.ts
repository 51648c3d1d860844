import type { LiveConnection } from '@porch/client';
import { newSession, type FileTransfer, type SessionCommand, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { participantOf } from '@porch/testkit/participant';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { makeKeys, plainCiphers, realRandomness } from '@porch/wire';
import { expect, it } from 'vitest';
import { GrantBook, type Answer, type FilesPort, type Question } from '../../index.ts';
import { FileDesk } from './file-desk.ts';
import { Together } from './together.ts';

const MEGABYTE = 1024 * 1024;
const keys = { me: makeKeys(), pim: makeKeys(), rune: makeKeys() };
const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const offeredFile = (n: number, fromId: string, sizeBytes = 1_000): FileTransfer => ({
  ...{ id: id(n), fromId, toId: 'me', sizeBytes, sha256: 'a'.repeat(64), stage: 'offered', name: `${n}.txt` },
  ...{ isFolder: false, count: 1, pausedBy: undefined },
});

/** A desk before whom files were offered; what it asks is answered when the test says so. */
function desk(files: readonly FileTransfer[], freeBytes = 1_000 * MEGABYTE) {
  const time = new VirtualClock();
  const commands: SessionCommand[] = [];
  const asked: { question: Question; answer: (answer: Answer | undefined) => void }[] = [];
  const listeners: Record<string, (what: unknown) => void> = {};
  const state: SessionState = {
    ...newSession,
    holderId: 'me',
    participants: {
      me: participantOf('me', 3, 'doorstep', { keys: keys.me }),
      pim: participantOf('pim', 1, 'lead', { keys: keys.pim }),
      rune: participantOf('rune', 2, 'colleague', { keys: keys.rune }),
    },
    slices: { ...newSession.slices, files: Object.fromEntries(files.map((file) => [file.id, file])) },
  };
  const connection = {
    ...{ participantId: 'me', state, seat: 3, sessionId: id(99), keys: keys.me, serviceNowMs: 0 },
    ...{ clock: time, random: realRandomness, ciphers: plainCiphers },
    on: (event: string, listener: (what: unknown) => void) => {
      listeners[event] = listener;
      return () => delete listeners[event];
    },
    command: (command: SessionCommand) => Promise.resolve(void commands.push(command)),
    sendBulk: () => true,
  } as unknown as LiveConnection;
  const grants = new GrantBook(keys.me, id(99), 0);
  grants.grant('give-files', keys.pim, 1e9);
  const sunk: string[] = [];
  const port: FilesPort = {
    freeBytes: () => Promise.resolve(freeBytes),
    isThere: () => Promise.resolve(false),
    sinkFor: ({ name }) => {
      sunk.push(name);
      return Promise.resolve({
        write: () => Promise.resolve(),
        finish: () => Promise.resolve(),
        discard: () => Promise.resolve(),
      });
    },
    forgetPieces: () => Promise.resolve(),
    find: () => Promise.reject(new Error('not asked here')),
    folder: () => Promise.reject(new Error('not asked here')),
    names: () => Promise.reject(new Error('not asked here')),
  };
  const ask = (question: Question) =>
    new Promise<Answer | undefined>((resolve) => asked.push({ question, answer: resolve }));
  const { kit } = fakeKit(connection, grants, { files: port }, ask, time);
  const running = new FileDesk(kit, port);
  const settled = () => new Promise((resolve) => setImmediate(resolve));
  return {
    commands,
    asked,
    grants,
    sunk,
    running,
    settled,
    heard: () => listeners['entry']?.({ event: { type: 'x' } }),
  };
}

it('refuses without a question what has no room, with what is left after the others counted', async () => {
  const d = desk([offeredFile(1, 'pim', 200 * MEGABYTE)], 210 * MEGABYTE);
  d.heard();
  await d.settled();
  expect(d.asked).toHaveLength(0);
  expect(d.commands).toEqual([
    { type: 'closeFile', fileId: id(1), how: 'refused', why: 'there is no room for it there' },
  ]);
});

it('takes nothing of somebody who may not give, whatever the service passed on', async () => {
  const d = desk([offeredFile(1, 'pim'), offeredFile(2, 'rune')]);
  d.heard();
  await d.settled();
  expect(d.asked.map(({ question }) => question.lines[0])).toEqual([expect.stringContaining('1.txt')]);
  expect(d.commands).toContainEqual(expect.objectContaining({ fileId: id(2), how: 'refused' }));
});

it('takes nothing after leave was withdrawn while the question stood', async () => {
  const d = desk([offeredFile(1, 'pim')]);
  d.heard();
  await d.settled();
  d.grants.drop('give-files', keys.pim.signKey);
  d.asked[0]?.answer({ what: 'yes', choices: [] });
  await d.settled();
  expect([d.sunk, d.commands]).toEqual([[], []]);
});

it('asks once for those that belong together, and does not wait for ever for one that never comes', () => {
  const time = new VirtualClock();
  const asked: (readonly string[])[] = [];
  const together = new Together(time, (ids) => asked.push(ids));
  together.announce(['a', 'b', 'c']);
  together.offered('a');
  together.offered('x');
  expect(asked, 'what belongs to none is asked for at once').toEqual([['x']]);
  together.offered('b');
  time.advance(4_000);
  expect(asked).toHaveLength(1);
  time.advance(2_000);
  expect(asked[1]).toEqual(['a', 'b']);
  together.offered('c');
  expect(asked[2], 'it came too late').toEqual(['c']);
  for (let i = 0; i < 20; i++) together.announce([`p${i}`, `q${i}`]);
  together.close();
  time.advance(60_000);
  expect(asked).toHaveLength(3);
});
