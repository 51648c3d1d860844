import { House, setInForce, until } from '@porch/testkit';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* What the desk has set: changed at the terminal, and in force without a restart. */
let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_CODE_MINUTES: '25', PORCH_LOG_LEVEL: 'info' }, keepsLog: true });
});
afterAll(() => house.close());

const admin = (...args: string[]) => house.admin(args);
const set = (...args: string[]) => admin('setting', 'set', ...args);
interface Shown {
  value: unknown;
  from: string;
  version: number;
  history: { version: number; by: string; value?: unknown }[];
}
const get = async (name: string, ...more: string[]): Promise<Shown> =>
  JSON.parse((await admin('setting', 'get', name, ...more, '--json')).out) as Shown;
const door = async () =>
  (await (await fetch(`${house.url}/api/door`)).json()) as {
    deskName: string;
    deskPhone: string;
    topics: { topic: string }[];
  };
/** Until everything that was set before counts. */
const inForce = () => setInForce(house);
const restart = async (env: Record<string, string> = {}) => {
  await house.killService();
  await house.startService(env);
};

it('takes what the environment says as first values, once, and says so', async () => {
  expect(await get('code-minutes')).toMatchObject({ value: 25, from: 'desk', version: 1 });
  expect((await get('code-minutes')).history).toEqual([expect.objectContaining({ by: 'PORCH_CODE_MINUTES' })]);
  const log = () => readFileSync(join(house.folder, 'service.log'), 'utf8');
  await until('a word about it', () => /PORCH_CODE_MINUTES.*read once into the setting code-minutes/.test(log()));
  expect((await set('code-minutes', '20')).out).toContain('20 min (was 25 min)');
  await restart();
  await until('a word about the idle one', () => /PORCH_CODE_MINUTES.*without effect/.test(log()));
  expect(await get('code-minutes')).toMatchObject({ value: 20, version: 2 });
});

it('counts within seconds, for the desk and for the team that differs', async () => {
  expect((await set('desk-name', 'Marrowick Night Desk')).code).toBe(0);
  await until('the new name', async () => (await door()).deskName === 'Marrowick Night Desk');

  expect((await set('code-minutes', '20')).code).toBe(0);
  expect((await set('code-minutes', '5', '--team', 'Ship Systems')).code).toBe(0);
  const [pim, wanjiru] = [await house.signedIn(), await house.signedIn('Wanjiru Holt')];
  const minutes = async (who: typeof pim) => {
    // The same session again while nobody came: the code is made anew.
    const { session } = await who.start({});
    return Math.ceil((await who.newCode(session.id)).remainingMs / 60_000);
  };
  await inForce();
  expect(await minutes(wanjiru)).toBe(5);
  expect(await minutes(pim)).toBe(20);
  expect(await get('code-minutes', '--team', 'Ship Systems')).toMatchObject({ value: 5, from: 'team', version: 1 });
  expect((await set('code-minutes', '--as-it-comes', '--team', 'Ship Systems')).out).toContain('20 min (was 5 min)');
  await inForce();
  expect(await minutes(wanjiru)).toBe(20);

  expect((await pim.porch()).bundles.map(({ name }) => name)).toContain('Look and work');
  expect((await set('bundles', 'Just look = view-screen')).code).toBe(0);
  await until('the porch to know', async () => (await pim.porch()).bundles[0]?.name === 'Just look');
});

it('lets two who change one setting know of each other, and loses neither', async () => {
  const { version } = await get('max-waiting');
  const [a, b] = await Promise.all([
    set('max-waiting', '50', '--seen', String(version)),
    set('max-waiting', '60', '--seen', String(version)),
  ]);
  const [first, second] = a.code === 0 ? [a, b] : [b, a];
  expect([first.code, second.code]).toEqual([0, 1]);
  expect(second.err).toMatch(/was set to \d+ by \S+ at .*: that is version 1\. Look at it/);
  // Without having looked, both count, one after the other.
  await Promise.all([set('max-waiting', '70'), set('max-waiting', '80')]);
  const { history } = await get('max-waiting');
  expect(history.map((one) => one.version)).toEqual([1, 2, 3]);
  expect(new Set(history.slice(1).map((one) => one.value))).toEqual(new Set([70, 80]));
});

it('refuses what contradicts, what is unknown and what is wrong, and says what to do', async () => {
  const refused = async (args: string[], says: RegExp, code = 1) => {
    const answer = await admin('setting', ...args);
    expect([answer.code, answer.err]).toEqual([code, expect.stringMatching(says)]);
  };
  expect((await set('code-minutes', '20')).code).toBe(0);
  await refused(['set', 'code-rotate-minutes', '20'], /code-rotate-minutes and code-minutes: .*change the other one/);
  await refused(['set', 'requests-signed-in', 'yes'], /PORCH_DIRECTORY_URL/);
  await refused(['set', 'may-not-ask', 'Kitchen: view-screen'], /no team and no role “Kitchen”/);
  await refused(['set', 'code-lifetime', '20'], /no setting “code-lifetime”; do you mean .*code-minutes/);
  await refused(['set', 'code-minutes', 'soon'], /code-minutes \(min\): .*number/);
  await refused(['set', 'max-waiting', '3', '--team', 'Ship Systems'], /same for the whole desk/);
  await refused(['set', 'code-minutes', '3', '--team', 'Kitchen'], /no team “Kitchen”; there are: .*Ship Systems/);
  await refused(['set', 'code-minutes'], /a value, --file, or --as-it-comes/);
  await refused(['set', 'notice', '--file', '/no/such/file'], /cannot be read/);
  const file = join(house.folder, 'notice.json');
  writeFileSync(file, JSON.stringify({ version: '2', en: 'Help only.', no: 'Kun hjelp.' }));
  await refused(['set', 'notice', '--file', file], /de/);
  expect((await get('code-rotate-minutes')).history).toEqual([]);
});

it('passes over what it cannot understand, says so, and goes on with what counted before', async () => {
  await house.query(
    `INSERT INTO "setting" VALUES ('desk-phone', '', 99, clock_timestamp(), 'by hand', '"${'5'.repeat(99)}"'), ('tea-minutes', '', 1, clock_timestamp(), 'a later release', '4')`,
  );
  const listed = await admin('setting', 'list');
  expect(listed.out).toMatch(/LOOK {2}not understood, so not used: desk-phone, version 99/);
  expect(listed.out).toContain('tea-minutes: this release knows no such setting');
  const checked = await admin('check');
  expect(checked.out).toMatch(/LOOK {2}policy .*desk-phone/);
  await restart();
  expect((await door()).topics.length).toBeGreaterThan(0);
  await house.query(`DELETE FROM "setting" WHERE "set_by" IN ('by hand', 'a later release')`);
});

it('has topics and teams that come, change and go while it runs', async () => {
  const topics = async () => (await door()).topics.map(({ topic }) => topic);
  expect((await admin('topic', 'add', 'Tides', '--nb', 'Tidevann', '--de', 'Gezeiten', '--place', '1')).code).toBe(0);
  await until('the topic', async () => (await topics())[0] === 'Tides');
  const log = () => readFileSync(join(house.folder, 'service.log'), 'utf8');
  expect(log(), 'the environment says the same as yet').not.toContain('PORCH_TOPICS: without effect');
  await restart();
  expect(log()).toContain('PORCH_TOPICS: without effect');
  expect((await admin('topic', 'change', 'Tides', '--team', 'Kitchen')).err).toContain('there is no team “Kitchen”');
  expect((await admin('topic', 'add', 'Tides')).err).toContain('already');
  expect((await admin('topic', 'change', 'Tides', '--nb', 'a|b')).err).toContain('bar');

  expect(await admin('team', 'add', 'Harbour Office')).toMatchObject({ code: 0 });
  expect((await admin('topic', 'change', 'Tides', '--team', 'Harbour Office')).out).toContain('for Harbour Office');
  const wanjiru = 'wanjiru.holt@marrowick.example';
  expect((await admin('technician', 'change', wanjiru, '--team', 'Harbour Office')).out).toContain('Harbour Office');
  expect((await set('away-minutes', '3', '--team', 'Harbour Office')).code).toBe(0);
  expect((await admin('team', 'remove', 'Harbour Office')).err).toContain('still in it');
  expect(await admin('team', 'rename', 'Harbour Office', 'Pilots')).toMatchObject({ code: 0 });
  expect(await get('away-minutes', '--team', 'Pilots')).toMatchObject({ value: 3, from: 'team' });
  expect((await admin('topic', 'list')).out).toContain('for Pilots');
  const pim = await house.signedIn();
  await until('her new team', async () => JSON.stringify(await pim.colleagues()).includes('Pilots'));
  expect((await admin('team', 'rename', 'Desk', 'Counter')).err).toContain('leads');

  expect((await set('may-not-ask', 'Pilots: give-files')).code).toBe(0);
  expect((await admin('team', 'rename', 'Pilots', 'Harbour')).err).toContain('may-not-ask names it');
  expect((await set('may-not-ask', '--as-it-comes')).code).toBe(0);
  expect((await admin('technician', 'change', wanjiru, '--team', 'Ship Systems')).code).toBe(0);
  expect((await admin('team', 'remove', 'Pilots')).err).toContain('“Tides” is its work');
  expect((await admin('topic', 'remove', 'Tides')).code).toBe(0);
  expect((await admin('team', 'remove', 'Pilots')).code).toBe(0);
  await until('the topic to be gone', async () => !(await topics()).includes('Tides'));
  expect((await admin('technician', 'change', wanjiru, '--topics', 'Tides')).err).toContain('no topic “Tides”');
});

it('starts with nothing that contradicts itself', async () => {
  await house.query(`DELETE FROM "setting"`);
  await house.killService();
  await expect(house.startService({ PORCH_CODE_MINUTES: '5', PORCH_CODE_ROTATE_MINUTES: '6' })).rejects.toThrow(
    /PORCH_CODE_ROTATE_MINUTES and PORCH_CODE_MINUTES: a code would be over/,
  );
  expect(await house.query(`SELECT * FROM "setting"`), 'nothing of it was taken').toEqual([]);
  await house.startService();
});
