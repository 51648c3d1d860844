import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { createHash, randomUUID } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { PointStore, type PointPlaces } from './point-store.ts';

const folder = mkdtempSync(join(tmpdir(), 'porch-points-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const signal = new AbortController().signal;
const always = () => true;

function place(more: Partial<PointPlaces> = {}) {
  const root = join(folder, randomUUID());
  const home = join(root, 'home');
  mkdirSync(home, { recursive: true });
  const places = {
    home,
    folder: join(root, 'state/points'),
    own: [join(root, 'state')],
    sessionId: 'now',
    nowMs: () => 1_000,
  };
  const store = new PointStore({ ...places, freeBytes: () => Promise.resolve(1e12), ...more });
  const make = (paths: string[], mostBytes = 1e9) =>
    store.make(
      { name: 'before', touches: { paths, services: [], hasPackages: false }, mostBytes },
      signal,
      () => undefined,
    );
  return { root, home, places, store, make };
}
/** Everything beneath a folder: kinds, modes, links and hashes. */
function listing(at: string): Record<string, string> {
  const found: Record<string, string> = {};
  const look = (path: string, name: string): void => {
    const is = lstatSync(path);
    if (is.isSymbolicLink()) found[name] = `link ${readlinkSync(path)}`;
    else if (is.isDirectory()) {
      found[name] = `folder ${is.mode.toString(8)}`;
      for (const child of readdirSync(path)) look(join(path, child), `${name}/${child}`);
    } else found[name] = `file ${is.mode.toString(8)} ${createHash('sha256').update(readFileSync(path)).digest('hex')}`;
  };
  look(at, '.');
  return found;
}
const refusal = (doing: Promise<unknown>) =>
  doing.then(
    () => 'done',
    (error: unknown) => (error as Error).message,
  );

/** One thing that somebody does to a tree: it may do nothing, where something else is in the way. */
type Change = { readonly at: string; readonly to: 'file' | 'folder' | 'link' | 'gone' | 'mode'; readonly text: string };
function change(home: string, { at, to, text }: Change): void {
  const path = join(home, 'work', at);
  try {
    if (to === 'mode') return chmodSync(path, 0o640);
    rmSync(path, { recursive: true, force: true });
    if (to === 'gone') return;
    mkdirSync(dirname(path), { recursive: true });
    if (to === 'folder') mkdirSync(path);
    else if (to === 'link') symlinkSync(text || 'x', path);
    else writeFileSync(path, text);
  } catch (error) {
    expect((error as NodeJS.ErrnoException).code).toMatch(/ENOENT|ENOTDIR|EEXIST|ELOOP/);
  }
}
const part = fc.constantFrom('a', 'b', 'labels', 'new\nline', 'it’s "quoted" $(x)', '-rf');
const changes = fc.array(
  fc.record({
    at: fc.array(part, { minLength: 1, maxLength: 3 }).map((parts) => parts.join('/')),
    to: fc.constantFrom('file', 'file', 'folder', 'link', 'gone', 'mode'),
    text: fc.string({ maxLength: 20 }).map((text) => text.replaceAll('\0', '')),
  }) as fc.Arbitrary<Change>,
  { maxLength: 12 },
);

describe('a safe point', () => {
  it('makes a tree what it was, whatever was done to it, and going back can be gone back from', async () => {
    await fc.assert(
      fc.asyncProperty(changes, changes, async (first, then) => {
        const { home, store, make, root } = place();
        mkdirSync(join(home, 'work'));
        writeFileSync(join(home, 'beside'), 'not touched');
        for (const one of first) change(home, one);
        const before = listing(home);
        const point = await make(['work', 'not-there']);
        expect(await store.compare(point.id, signal)).toEqual([]);
        for (const one of then) change(home, one);
        writeFileSync(join(home, 'not-there'), 'it came');
        const changed = listing(home);
        const differences = await store.compare(point.id, signal);
        expect(differences.length).toBeGreaterThan(0);
        const again = await make(['work', 'not-there']);
        expect((await store.undo(point.id, { may: always, signal })).left).toEqual([]);
        expect(listing(home)).toEqual(before);
        expect(await store.compare(point.id, signal)).toEqual([]);
        await store.undo(again.id, { may: always, signal });
        expect(listing(home)).toEqual(changed);
        rmSync(root, { recursive: true, force: true });
      }),
      runs(),
    );
  });

  it('is never half of one: what breaks off, is too large or has no room leaves nothing behind', async () => {
    const { home, places, make } = place();
    writeFileSync(join(home, 'large'), Buffer.alloc(100_000));
    expect(await refusal(make(['large'], 1_000))).toBe('it is larger than this desk allows');
    const full = new PointStore({ ...places, freeBytes: () => Promise.resolve(100 * 1024 * 1024) });
    const touches = { paths: ['large'], services: [], hasPackages: false };
    const about = { name: 'x', touches, mostBytes: 1e9 };
    expect(await refusal(full.make(about, signal, () => undefined))).toBe('there is not enough room for it');
    const ends = new AbortController();
    const store = new PointStore({ ...places, freeBytes: () => Promise.resolve(1e12) });
    expect(await refusal(store.make(about, ends.signal, () => ends.abort()))).toMatch(/abort/i);
    expect(await refusal(store.make({ ...about, touches: { ...touches, paths: [] } }, signal, always))).toBe(
      'a safe point holds something',
    );
    expect(readdirSync(places.folder)).toEqual([]);
    expect(await store.list()).toEqual([]);
  });

  it('stays within the home of the person, and out of what is ours', async () => {
    const { root, home, make } = place({ own: [join(folder, 'elsewhere')] });
    symlinkSync('/etc', join(home, 'etc'));
    for (const path of ['/etc/passwd', '../x', 'etc/passwd', '~', '.', '/'])
      expect(await refusal(make([path])), path).toMatch(/outside the home/);
    // The link itself may be in one: it is remembered as a link.
    expect((await make(['etc'])).files).toBe(0);
    const ours = place();
    const inHome = new PointStore({
      ...ours.places,
      own: [join(ours.home, '.state')],
      freeBytes: () => Promise.resolve(1e12),
    });
    const touches = { paths: ['.state/x'], services: [], hasPackages: false };
    expect(await refusal(inHome.make({ name: 'x', touches, mostBytes: 1 }, signal, always))).toBe(
      'it belongs to Doorstep',
    );
    rmSync(root, { recursive: true, force: true });
  });

  it('goes with its session unless it was kept, then with its time; what a killed one left goes with the next', async () => {
    const { home, places, store, make } = place();
    writeFileSync(join(home, 'a'), 'a');
    const [kept, other] = [await make(['a']), await make(['a'])];
    await store.keep(kept.id, 5_000);
    await store.dropUnkept();
    expect((await store.list()).map(({ id, keptUntilMs }) => [id, keptUntilMs])).toEqual([[kept.id, 5_000]]);
    expect(await refusal(store.undo(other.id, { may: always, signal }))).toBe('there is no such safe point');

    const next = new PointStore({ ...places, sessionId: 'next', freeBytes: () => Promise.resolve(1e12) });
    await next.dropStale();
    writeFileSync(join(home, 'a'), 'b');
    expect((await next.list())[0]).toMatchObject({ isOfThisSession: false, isUsed: false, paths: ['a'] });
    expect(await next.undo(kept.id, { may: always, signal })).toEqual({ count: 1, left: [] });
    expect(readFileSync(join(home, 'a'), 'utf8')).toBe('a');
    expect((await next.list())[0]?.isUsed).toBe(true);

    // Of a program that is not there any longer: its number is another's by now.
    const left = await make(['a']);
    const path = join(places.folder, left.id, 'point.json');
    writeFileSync(path, readFileSync(path, 'utf8').replace(/"maker":"(\d+)\.\d+/, '"maker":"$1.1'));
    mkdirSync(join(places.folder, `${randomUUID()}.${process.pid}.1.another-start.half`));
    mkdirSync(join(places.folder, randomUUID()));
    await next.dropStale();
    expect(readdirSync(places.folder)).toEqual([kept.id]);
    const later = new PointStore({ ...places, sessionId: 'later', nowMs: () => 6_000 });
    expect(await later.list()).toEqual([]);
    await later.dropStale();
    expect(existsSync(places.folder)).toBe(false);
  });

  it('stops in the middle of going back once it may not, says what is left, and goes on later', async () => {
    const { home, store, make } = place();
    mkdirSync(join(home, 'work'));
    for (const name of ['a', 'b', 'c', 'd']) writeFileSync(join(home, 'work', name), 'before');
    const before = listing(home);
    const point = await make(['work']);
    for (const name of ['a', 'b', 'c', 'd']) writeFileSync(join(home, 'work', name), 'after');
    let left = 2;
    const went = await store.undo(point.id, { may: () => left-- > 0, signal });
    expect([went.count, went.left.map(({ why }) => why)]).toEqual([2, ['broken-off', 'broken-off']]);
    await store.undo(point.id, { may: always, signal });
    expect(listing(home)).toEqual(before);
  });
});
