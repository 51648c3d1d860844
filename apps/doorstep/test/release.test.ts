import { TechnicianRights, TechnicianRunbook, type RunNow } from '@porch/client';
import { PersonAtDesk, startDesktop, whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, House, lookAt, runbookInUse, until } from '@porch/testkit';
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash, createPrivateKey, generateKeyPairSync, sign, type KeyObject } from 'node:crypto';
import { chmodSync, chownSync, copyFileSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';

/* A real release: built, signed, handed out, run by somebody without rights on a bare display, and updated. */
let house: House;
let folder = '';
const NOBODY = 65_534;
beforeAll(async () => {
  folder = join(inject('folder'), 'release');
  execFileSync(process.execPath, [
    join(inject('root'), 'scripts', 'release.mjs'),
    ...['--publisher', 'Marrowick Ferries IT desk', '--key', join(folder, 'publisher', 'key.pem')],
    ...['--out', join(folder, 'out'), '--address', 'https://help.marrowick.example'],
  ]);
  house = await House.open({ env: { PORCH_RELEASE_DIR: join(folder, 'out') } });
}, 120_000);
afterAll(() => house.close());

it('knows its session by its name, once, and works for somebody without rights on a bare display', async () => {
  const { technician, customerRest } = await house.sessionUnderWay();
  const door = await customerRest.door();
  expect(door.download).toMatchObject({ version: '0.1.0', publisher: 'Marrowick Ferries IT desk' });
  const { path } = await customerRest.doorDownload();
  const answer = await fetch(house.url + path);
  const name = /filename="(.*)"/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? '';
  expect(name).toMatch(/^doorstep\.[\w-]+\.[\w-]{43}$/);
  const desktop = await startDesktop(house.processes, {
    name: 'a bare account',
    home: join(house.folder, 'home-bare'),
    programs: 'none',
  });
  // As a browser that has such a file already would call it.
  const file = join(desktop.home, `${name} (1)`);
  writeFileSync(file, new Uint8Array(await answer.arrayBuffer()));
  chmodSync(file, 0o755);
  const isRoot = process.getuid?.() === 0;
  if (isRoot) for (const owned of [desktop.home, file]) chownSync(owned, NOBODY, NOBODY);
  const env = { DISPLAY: desktop.display, HOME: desktop.home, PATH: '/usr/bin:/bin' };
  const who = isRoot ? { uid: NOBODY, gid: NOBODY } : {};
  const child = house.processes.start('Doorstep', file, [], { env, ...who, stdio: ['ignore', 'inherit', 'inherit'] });
  await until('Doorstep', () => technician.state.holderId);
  const came = technician.entries.find((e) => e.event.type === 'participantJoined' && e.event.role === 'doorstep');
  expect(came?.event).toMatchObject({ way: 'download' });
  const person = await PersonAtDesk.at(desktop.display);
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
  const { text } = await until('the question', () => person.question());
  expect(text, 'it says that it was led elsewhere').toContain('was made for help.marrowick.example');
  expect(text).toContain(new URL(house.url).host);
  await person.answer(true, 1_100);
  const seen = lookAt(technician);
  await until('the picture', seen.isFresh);
  person.close();
  seen.stop();
  const again = spawnSync(file, [], { env, ...who, encoding: 'utf8' });
  expect(again.status).toBe(1);
  expect(again.stderr).toMatch(/does not lead to an open session|used/);
  await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  await until('Doorstep to go', () => child.exitCode === 0);
});

it('hands out nothing for a token that is no download, and says who published a release', async () => {
  const { link } = await house.sessionUnderWay();
  expect((await fetch(`${house.url}/download/${link}`)).status).toBe(404);
  expect(execFileSync(join(folder, 'out', 'doorstep'), ['--version'], { encoding: 'utf8' })).toMatch(
    /^0\.1\.0, published by Marrowick Ferries IT desk \(key [0-9a-f]{16}…\)\n$/,
  );
});

describe('an update', () => {
  let service: Server;
  let offered: { manifest: string; signature: string } | undefined;
  let bytes: Uint8Array;
  let own = '';
  const publisher = () => createPrivateKey(readFileSync(join(folder, 'publisher', 'key.pem')));
  const someoneElse = generateKeyPairSync('ed25519').privateKey;
  /** What a service, honest or not, could offer. */
  function offer(change: Record<string, unknown>, key: KeyObject): void {
    const manifest = JSON.stringify({
      ...(JSON.parse(
        (JSON.parse(readFileSync(join(folder, 'out', 'release.json'), 'utf8')) as { manifest: string }).manifest,
      ) as object),
      sizeBytes: bytes.length,
      sha256: createHash('sha256').update(bytes).digest('hex'),
      ...change,
    });
    offered = { manifest, signature: sign(null, Buffer.from(`porch release 1\n${manifest}`), key).toString('hex') };
  }
  const update = () => {
    const url = `http://127.0.0.1:${(service.address() as { port: number }).port}`;
    // Not spawnSync: the service that it asks is this very process.
    return new Promise<string>((resolve) => {
      const child = house.processes.start('update', own, ['update', '--service', url]);
      let said = '';
      for (const stream of [child.stdout, child.stderr])
        stream?.on('data', (part: Buffer) => (said += part.toString()));
      child.on('close', () => resolve(said));
    });
  };
  beforeAll(async () => {
    mkdirSync(join(folder, 'own'), { recursive: true });
    own = join(folder, 'own', 'doorstep');
    copyFileSync(join(folder, 'out', 'doorstep'), own);
    bytes = new TextEncoder().encode('#!/bin/sh\necho "the new one"\n');
    service = createServer((request, response) => {
      if (request.url === '/download/doorstep/release.json') response.end(JSON.stringify(offered));
      else response.end(bytes);
    });
    await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
  });
  afterAll(() => void service.close());

  it('is refused when another key signed it, when the bytes differ, for another machine; older ones are none', async () => {
    const before = createHash('sha256').update(readFileSync(own)).digest('hex');
    offer({ version: '0.2.0' }, someoneElse);
    expect(await update()).toMatch(/not signed by Marrowick Ferries IT desk/);
    offer({ version: '0.2.0', sha256: '0'.repeat(64) }, publisher());
    expect(await update()).toMatch(/what came is not what was signed/);
    offer({ version: '0.2.0', sizeBytes: 10 }, publisher());
    expect(await update()).toMatch(/what came is not what was signed/);
    offer({ version: '0.2.0', platform: 'plan9-mips' }, publisher());
    expect(await update()).toMatch(/the release is for plan9-mips/);
    offer({ version: '0.0.9' }, publisher());
    expect(await update()).toMatch(/0\.1\.0 is the newest/);
    expect(createHash('sha256').update(readFileSync(own)).digest('hex')).toBe(before);
  });

  it('takes the place of the file when the publisher signed a newer one', async () => {
    offer({ version: '0.2.0' }, publisher());
    expect(await update()).toMatch(/Updated to 0\.2\.0/);
    expect(execFileSync(own, { encoding: 'utf8' })).toBe('the new one\n');
  });
});

it.skipIf(whyNoComputers())(
  'has administrator rights held by a copy of what runs, whatever was put in its place since',
  async () => {
    const bettina = 4161;
    const inUse = await runbookInUse(house);
    const { technician, rest, link } = await house.sessionUnderWay();
    const desktop = await computerOf(house);
    const file = join(desktop.home, 'doorstep');
    copyFileSync(join(folder, 'out', 'doorstep'), file);
    chmodSync(file, 0o755);
    chownSync(file, bettina, bettina);
    const args = ['join', '--link', `${house.url}/join/${link}`, '--display', desktop.displayThere];
    desktop.starter.start('Doorstep', file, args, {
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { HOME: desktop.home },
    });
    await until('Doorstep', () => technician.state.holderId);
    const person = await PersonAtDesk.at(desktop.display);
    for (const permission of ['raise-rights', 'run-runbook'] as const)
      await askAndAgree(technician, person, [permission]);
    // Another program of hers puts itself there.
    writeFileSync(`${file}.new`, '#!/bin/sh\ntouch /root/was-here\n', { mode: 0o755 });
    renameSync(`${file}.new`, file);
    const rights = new TechnicianRights(technician, rest);
    const raising = rights.raise(rights.wanted('look at the printer'), 'password', { installed: undefined });
    await person.questionSaying(/Password of an administrator/);
    await person.type('tern-quay-gull-7');
    await person.press(/Password of an administrator/, 'yes');
    await raising;
    const runbook = new TechnicianRunbook(technician, rest);
    const { id, title } = await inUse({
      title: 'Who',
      body: 'id -u; ls -d /root/was-here /run/doorstep-*',
      rights: 'administrator',
    });
    let now: RunNow | undefined;
    runbook.run(await runbook.look(id, { title }, {}), (next) => (now = next));
    await until('its end', () => now?.ended);
    expect(now?.text).toMatch(/^0\n/);
    // Neither what was put there, nor the copy, which is gone as soon as it runs.
    expect(now?.text).not.toMatch(/^\/(root|run)/m);
    person.close();
  },
);
