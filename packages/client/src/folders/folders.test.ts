import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { MOST_DEPTH, readFolder } from './folder-reader.ts';
import { folderSource, type FolderMember } from './folder-source.ts';
import { blocksFor, headersOf } from './tar-header.ts';

const bytesOf = (bytes: Uint8Array) => ({
  sizeBytes: bytes.length,
  read: (offset: number, length: number) => Promise.resolve(bytes.subarray(offset, offset + length)),
});
const part = fc
  .string({ unit: 'binary', minLength: 1, maxLength: 40 })
  .filter((name) => !/[/\0]/.test(name) && name !== '..' && name !== '.');
const member = fc.record({
  parts: fc.array(part, { minLength: 1, maxLength: 4 }),
  bytes: fc.option(fc.uint8Array({ maxLength: 2_000 })),
  changedAtMs: fc.nat(2 ** 41).map((ms) => ms - (ms % 1_000)),
});
type Made = { parts: string[]; bytes: Uint8Array | null; changedAtMs: number };
const membersOf = (made: readonly Made[]): FolderMember[] =>
  made.map(({ parts, bytes, changedAtMs }) => ({
    path: parts.join('/'),
    changedAtMs,
    ...(bytes ? { file: bytesOf(bytes) } : {}),
  }));
async function all(source: { sizeBytes: number; read(offset: number, length: number): Promise<Uint8Array> }) {
  const found = [];
  for await (const one of readFolder(source.read, source.sizeBytes)) found.push(one);
  return found;
}

describe('a folder as one stream', () => {
  it('is read as what it was, from wherever one begins, with names that lead nowhere and are never one', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(member, { maxLength: 8 }), fc.nat(), fc.nat(3_000), async (made, at, length) => {
        const source = folderSource('Kai', membersOf(made));
        const whole = await source.read(0, source.sizeBytes);
        const from = at % source.sizeBytes;
        const some = Math.min(length, source.sizeBytes - from);
        expect(await source.read(from, some)).toEqual(whole.subarray(from, from + some));
        const found = await all(source);
        expect(found.map(({ isFolder }) => !isFolder)).toEqual(made.map(({ bytes }) => bytes !== null));
        const files = found.filter(({ isFolder }) => !isFolder);
        expect(await Promise.all(files.map(({ offset, sizeBytes }) => source.read(offset, sizeBytes)))).toEqual(
          made.flatMap(({ bytes }) => (bytes ? [bytes] : [])),
        );
        expect(found.map(({ changedAtMs }) => changedAtMs)).toEqual(made.map(({ changedAtMs }) => changedAtMs));
        for (const { path } of found) for (const name of path) expect(name).not.toMatch(/[/\\\0]|^\.\.?$|^$/);
        const originals = new Map<string, string>();
        for (const [i, { path }] of found.entries()) {
          const key = path.join('/').toLowerCase();
          const original = made[i]?.parts.join('/') ?? '';
          expect(originals.get(key) ?? original, 'two that were told apart stay apart').toBe(original);
          originals.set(key, original);
        }
      }),
      runs(),
    );
  });

  it('survives whatever is sent in its place', async () => {
    const good = folderSource(
      'Kai',
      membersOf([{ parts: ['a', 'b.txt'], bytes: new Uint8Array(700), changedAtMs: 0 }]),
    );
    const whole = await good.read(0, good.sizeBytes);
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 6 }),
        fc.nat(whole.length),
        async (changes, length) => {
          const bytes = whole.slice(0, length);
          for (const [at, byte] of changes) if (at < length) bytes[at] = byte;
          const outcome = await all(bytesOf(bytes)).catch((error: Error) => error);
          if (outcome instanceof Error) return;
          for (const { path, offset, sizeBytes } of outcome) {
            expect(path.every((name) => name && !/[/\\]/.test(name) && name !== '..')).toBe(true);
            expect(offset + sizeBytes).toBeLessThanOrEqual(length);
          }
        },
      ),
      runs(),
    );
  });

  it.each([
    ['../../etc/cron.d/x', 'leads out'],
    ['a/../../b', 'leads out'],
    [Array.from({ length: MOST_DEPTH + 1 }, () => 'd').join('/'), 'leads out'],
  ])('refuses %s', async (path, why) => {
    const head = headersOf({ path, isFolder: false, sizeBytes: 0, changedAtMs: 0 });
    const bytes = new Uint8Array(blocksFor(head.length) + 1_024);
    bytes.set(head);
    await expect(all(bytesOf(bytes))).rejects.toThrow(why);
  });

  it('has places and folders of any length, and says how many files there are', async () => {
    const deep = `${'Brücke '.repeat(30)}/${'x'.repeat(180)}.csv`;
    const source = folderSource('Kai', [
      { path: 'leer', changedAtMs: 0 },
      { path: deep, changedAtMs: 5_000, file: bytesOf(new Uint8Array(3)) },
    ]);
    expect(source.count).toBe(1);
    const [empty, file] = await all(source);
    expect(empty).toMatchObject({ path: ['leer'], isFolder: true });
    expect(file?.path).toHaveLength(2);
    expect(file).toMatchObject({ sizeBytes: 3, changedAtMs: 5_000 });
  });
});
