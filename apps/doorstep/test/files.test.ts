import {
  FileAsking,
  FileTransfers,
  folderSource,
  type FileProgress,
  type FileSink,
  type LiveConnection,
} from '@porch/client';
import { fileToSend, folderToSend } from '@porch/client/node';
import { tellToTechnicians } from '@porch/core';
import { ledger } from '@porch/words/ledger';
import { askAndAgree, failure, House, setInForce, until } from '@porch/testkit';
import { createHash, randomBytes } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Files and folders both ways at a real computer, and what becomes of them when something breaks. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const F_KEY = { control: 37, alt: 64, f: 41 };

async function atTheirDesk(...permissions: Parameters<typeof askAndAgree>[2][number][]) {
  const { technician, link } = await house.sessionUnderWay();
  const { desktop, person, doorstep } = await house.withDoorstep(link);
  await until('Doorstep', () => technician.state.holderId);
  for (const permission of permissions) await askAndAgree(technician, person, [permission]);
  const transfers = new FileTransfers(technician);
  const moved: FileProgress[] = [];
  transfers.listeners.on('progress', (progress) => moved.push(progress));
  const holder = () => technician.state.holderId ?? '';
  return {
    ...{ technician, link, desktop, person, doorstep, transfers, moved, holder },
    asking: new FileAsking(technician, transfers),
    downloads: join(desktop.home, 'Downloads'),
    stage: (id: string) => technician.state.slices.files[id]?.stage,
    file: (id: string) => technician.state.slices.files[id],
  };
}
const bytes = (name: string, content: Uint8Array) => ({
  name,
  sizeBytes: content.length,
  read: (offset: number, length: number) => Promise.resolve(content.subarray(offset, offset + length)),
});
/** Each piece a moment later: something can happen meanwhile. */
const slowly = (name: string, content: Uint8Array, mayGoOn: (offset: number) => Promise<unknown>) => ({
  ...bytes(name, content),
  read: async (offset: number, length: number) => {
    await mayGoOn(offset);
    return content.subarray(offset, offset + length);
  },
});
const sentences = ({ entries }: Pick<LiveConnection, 'entries'>) =>
  tellToTechnicians(entries, ledger.en).map(({ sentence }) => sentence);
const hashOf = (content: Uint8Array) => createHash('sha256').update(content).digest('hex');
const gathered = () => {
  const parts: Uint8Array[] = [];
  const sink: FileSink = {
    write: (part) => Promise.resolve(void parts.push(part.slice())),
    finish: () => Promise.resolve(),
    discard: () => Promise.resolve(void (parts.length = 0)),
  };
  return { sink, whole: () => Buffer.concat(parts) };
};

it('takes several and a folder in one question, without what is left out, and keeps what had the name', async () => {
  const at = await atTheirDesk('give-files');
  mkdirSync(at.downloads, { recursive: true });
  writeFileSync(join(at.downloads, 'notes.txt'), 'as it was\n');
  const mine = mkdtempSync(join(house.folder, 'mine-'));
  mkdirSync(join(mine, 'Quayprint 4.1', 'drivers', 'leer'), { recursive: true });
  const driver = randomBytes(300_000);
  writeFileSync(join(mine, 'Quayprint 4.1', 'drivers', 'brücke.bin'), driver);
  writeFileSync(join(mine, 'Quayprint 4.1', 'read me.txt'), 'Tern Quay\n');
  symlinkSync('/etc', join(mine, 'Quayprint 4.1', 'way-out'));
  const folder = await folderToSend(join(mine, 'Quayprint 4.1'), { refusedKinds: [] });
  expect([folder.count, folder.leftOut], 'links stay').toEqual([2, 1]);
  const ids = [0, 1, 2].map(() => crypto.randomUUID());
  const holder = at.technician.state.participants[at.holder()];
  at.transfers.tell(holder?.seat ?? 0, { type: 'together', fileIds: ids });
  const sources = [folder, bytes('notes.txt', Buffer.from('new\n')), bytes('unwanted.txt', Buffer.from('no\n'))];
  for (const [i, source] of sources.entries()) await at.transfers.offer(source, at.holder(), ids[i]);
  await at.person.questionSaying(/3 files and folders, .* together/);
  // Without the third, and with what has the name kept as it was.
  await at.person.press(/gives you 3 things/, 'yes', { i: 2, of: 4 });
  await until('the folder', () => at.stage(ids[0] ?? '') === 'arrived');
  await until('the file', () => at.stage(ids[1] ?? '') === 'arrived');
  expect(at.stage(ids[2] ?? '')).toBe('refused');
  const there = join(at.downloads, 'Quayprint 4.1');
  expect(readdirSync(there, { recursive: true }).sort()).toEqual([
    'drivers',
    'drivers/brücke.bin',
    'drivers/leer',
    'read me.txt',
  ]);
  expect(hashOf(readFileSync(join(there, 'drivers', 'brücke.bin')))).toBe(hashOf(driver));
  expect(readFileSync(join(at.downloads, 'notes (2).txt'), 'utf8')).toBe('new\n');
  expect(readFileSync(join(at.downloads, 'notes.txt'), 'utf8')).toBe('as it was\n');

  const again = await at.transfers.offer(bytes('notes.txt', Buffer.from('newer\n')), at.holder());
  await at.person.press(/already/, 'yes', { i: 1, of: 2 });
  await until('the newer one', () => at.stage(again) === 'arrived');
  expect(readFileSync(join(at.downloads, 'notes.txt'), 'utf8')).toBe('newer\n');
  expect(readFileSync(join(at.downloads, 'notes (before).txt'), 'utf8')).toBe('as it was\n');
  expect(
    readdirSync(at.downloads).filter((name) => name.startsWith('.')),
    'no piece is left',
  ).toEqual([]);
  expect(sentences(at.technician).join('\n')).toContain('offered the folder Quayprint 4.1 (2 files');
  await folder.close();
  await at.transfers.close();
});

it('goes on from where it was after Doorstep was killed, once the person says yes again', async () => {
  const at = await atTheirDesk('give-files');
  const content = randomBytes(6_000_000);
  let half: () => void = () => undefined;
  const isHalf = new Promise<void>((resolve) => (half = resolve));
  const pieceOf = () =>
    existsSync(at.downloads) && readdirSync(at.downloads).find((name) => name.endsWith('.porch-piece'));
  let isOffered = false;
  let dead: () => void = () => undefined;
  const isDead = new Promise<void>((resolve) => (dead = resolve));
  // The second half is not read before a third of it is there, and nobody is there any longer to take more.
  const source = slowly('sailings.db', content, async (offset) => {
    // All of it is read for its hash before it is offered.
    if (!isOffered || offset < content.length / 2) return;
    await until('a third of it', () => {
      const piece = pieceOf();
      return piece !== false && piece !== undefined && statSync(join(at.downloads, piece)).size > content.length / 3;
    });
    half();
    await isDead;
  });
  const first = await at.transfers.offer(source, at.holder());
  isOffered = true;
  await at.person.answer(true, 1_100);
  await isHalf;
  at.doorstep.kill('SIGKILL');
  dead();
  const piece = await until('what came of it', pieceOf);
  const kept = statSync(join(at.downloads, piece)).size;
  expect(kept).toBeGreaterThan(content.length / 4);
  const before = at.technician.state.participants[at.holder()]?.startId;
  house.startDoorstep(at.desktop, `${house.url}/join/${at.link}`);
  await until('Doorstep to be back', () => {
    const holder = at.technician.state.participants[at.holder()];
    return holder && holder.startId !== before;
  });
  await until('the first try to be over', () => at.stage(first) !== 'moving');
  expect(() => readFileSync(join(at.downloads, 'sailings.db')), 'half a file is none').toThrow();
  await askAndAgree(at.technician, at.person, ['give-files']);
  at.moved.length = 0;
  const second = await at.transfers.offer(bytes('sailings.db', content), at.holder());
  await at.person.answer(true, 1_100);
  await until('the file', () => at.stage(second) === 'arrived');
  expect(at.moved[0]?.movedBytes, 'not from the beginning').toBeGreaterThanOrEqual(kept);
  expect(hashOf(readFileSync(join(at.downloads, 'sailings.db')))).toBe(hashOf(content));
  expect(readdirSync(at.downloads)).toEqual(['sailings.db']);
  await at.transfers.close();
});

it('shows names as far as the person opened them, and fetches a folder without what is never sent', async () => {
  const at = await atTheirDesk('fetch-files');
  const { home } = at.desktop;
  mkdirSync(join(home, 'Kai', 'März'), { recursive: true });
  mkdirSync(join(home, 'Kai', 'deep', '.ssh'), { recursive: true });
  mkdirSync(join(home, '.ssh'), { recursive: true });
  writeFileSync(join(home, '.ssh', 'id_ed25519'), 'a key\n');
  writeFileSync(join(home, 'Kai', 'März', 'sailings.csv'), '07:10;Tern Quay\n');
  symlinkSync(join(home, 'Kai'), join(home, 'Kai', 'round'));
  symlinkSync('/etc', join(home, 'outside'));

  const refused = at.asking.look('');
  await at.person.press(/names of your files/, 'no');
  await expect(refused).rejects.toMatchObject({ why: 'the customer said no to this folder' });
  const looked = at.asking.look('');
  const { text } = await at.person.questionSaying(/names of your files/);
  expect(text).toContain('No file is opened');
  await at.person.press(/names of your files/, 'yes');
  const kinds = Object.fromEntries((await looked).names.map(({ name, kind }) => [name, kind]));
  expect((await looked).path).toBe('~');
  expect(kinds).toMatchObject({ '.ssh': 'kept', Kai: 'folder', outside: 'other' });
  await expect(at.asking.look('.ssh')).rejects.toMatchObject({ why: expect.stringContaining('never sent') as string });
  await expect(at.asking.look('outside')).rejects.toMatchObject({ why: expect.stringContaining('outside') as string });
  await expect(at.asking.look('Kai/none')).rejects.toMatchObject({ why: 'there is no such file' });
  // A folder within was not opened; with all that is in it, it is asked for once.
  const within = at.asking.look('Kai');
  await at.person.press(/names of your files/, 'yes', { i: 0, of: 1 });
  expect((await within).names.map(({ name }) => name).sort()).toEqual(['März', 'deep', 'round']);
  expect((await at.asking.look('Kai/März')).names).toMatchObject([
    { name: 'sailings.csv', kind: 'file', sizeBytes: 16 },
  ]);
  await until('it to be told', () =>
    sentences(at.technician).join('\n').includes('read the names in Kai and in the folders within'),
  );

  const asked = at.asking.fetch('Kai');
  const { text: asks } = await at.person.questionSaying(/wants to fetch a folder/);
  expect(asks).toMatch(/1 file.*leaves this computer/);
  await at.person.press(/wants to fetch a folder/, 'yes');
  const id = await asked;
  await until('the offer', () => at.file(id));
  expect(at.file(id)).toMatchObject({ isFolder: true, count: 1, name: 'Kai' });
  const { sink, whole } = gathered();
  await at.transfers.accept(id, sink);
  await until('the folder', () => at.stage(id) === 'arrived');
  expect(whole().includes('07:10;Tern Quay')).toBe(true);

  const holder = at.technician.participantId;
  await at.technician.command({
    type: 'withdrawPermission',
    participantId: holder,
    permission: 'fetch-files' as const,
    why: 'given back',
  });
  await expect(at.asking.look('Kai/März')).rejects.toMatchObject({ why: 'the customer has not allowed it' });
  await at.transfers.close();
});

it('waits and goes on from either side, is stopped at the computer by a key, and what came of it is deleted', async () => {
  const at = await atTheirDesk('give-files');
  const content = randomBytes(4_000_000);
  let isHeld = true;
  let resume: (() => void) | undefined;
  const source = slowly('sailings.db', content, async () => {
    if (isHeld && (at.moved.at(-1)?.movedBytes ?? 0) > 400_000)
      await new Promise<void>((resolve) => (resume = resolve));
  });
  const id = await at.transfers.offer(source, at.holder());
  await at.person.answer(true, 1_100);
  await until('it to have come some way', () => resume !== undefined);
  await at.transfers.setPaused(id, true);
  await until('it to wait', () => at.file(id)?.pausedBy === at.technician.participantId);
  isHeld = false;
  resume?.();
  const atRest = at.moved.at(-1)?.movedBytes ?? 0;
  expect(sentences(at.technician).at(-1)).toMatch(/made sailings.db wait/);
  await at.person.chord([F_KEY.control, F_KEY.alt, F_KEY.f]);
  await at.person.questionSaying(/Files on their way/);
  expect(at.moved.at(-1)?.movedBytes, 'nothing moved while it waited').toBeLessThanOrEqual(atRest + 800_000);
  await at.person.press(/Files on their way/, 'yes', { i: 0, of: 1 });
  await until('it to be over', () => at.stage(id) === 'cancelled');
  await until('nothing to be left', () => readdirSync(at.downloads).length === 0 || undefined);

  const second = await at.transfers.offer(bytes('sailings.db', content), at.holder());
  await at.person.answer(true, 1_100);
  await until('it to move', () => at.stage(second) !== 'offered');
  // It may be whole before it can wait: then there is nothing to wait or go on, and both are refused.
  await at.transfers.setPaused(second, true).catch(() => undefined);
  await at.transfers.setPaused(second, false).catch(() => undefined);
  await until('the whole', () => at.stage(second) === 'arrived');
  await at.transfers.close();
});

it('refuses before anybody is asked what the desk does not move, and what a folder hides', async () => {
  const at = await atTheirDesk('give-files');
  await setInForce(house, 'refused-file-kinds', 'exe, scr');
  expect(await failure(at.transfers.offer(bytes('setup.EXE', Buffer.from('MZ')), at.holder()))).toBe('FILE_KIND');
  // Their Doorstep heard of it when it came; one that comes now knows it.
  const later = await atTheirDesk('give-files');
  const hidden = folderSource('Quayprint', [
    { path: 'drivers/setup.exe', changedAtMs: 0, file: bytes('setup.exe', Buffer.from('MZ')) },
  ]);
  const id = await later.transfers.offer(hidden, later.holder());
  await later.person.answer(true, 1_100);
  await until('it to be over', () => later.stage(id) === 'failed');
  expect(readdirSync(later.downloads)).toEqual([]);
  await setInForce(house, 'refused-file-kinds', '--as-it-comes');

  // A folder that leads out of itself, from a program that is none of ours.
  const evil = {
    ...folderSource('x', [{ path: '../../evil.txt', changedAtMs: 0, file: bytes('e', Buffer.from('e')) }]),
    name: 'x',
  };
  const evilId = await later.transfers.offer(evil, later.holder());
  await later.person.answer(true, 1_100);
  await until('it to be over', () => later.stage(evilId) === 'failed');
  expect(readdirSync(later.downloads)).toEqual([]);
  await at.transfers.close();
  await later.transfers.close();
});

it('sends a file that is as large as it was, and none that changes meanwhile', async () => {
  const at = await atTheirDesk('give-files');
  const path = join(house.folder, 'log.txt');
  writeFileSync(path, randomBytes(200_000));
  const source = await fileToSend(path);
  const id = await at.transfers.offer(source, at.holder());
  writeFileSync(path, randomBytes(400_000));
  await at.person.answer(true, 1_100);
  await until('it to be over', () => at.stage(id) === 'failed');
  expect(readdirSync(at.downloads)).toEqual([]);
  await source.close();
  await at.transfers.close();
});
