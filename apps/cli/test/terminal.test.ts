import { House, until } from '@porch/testkit';
import { spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/* What every command has in common: lists, errors, profiles, and what a shell can do with them. */
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  await porch('sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin');
});
afterAll(() => house.close());
const porch = (...args: string[]) => house.porch('pim', args, 'harbour-lamp-41');
const lists = ['tickets', 'sessions', 'bookings', 'devices', 'sign-ins', 'profiles', 'doctor'];

it('prints every list in one shape, as JSON and as CSV', async () => {
  for (const list of lists) {
    const { items } = JSON.parse((await porch(list, '--json')).out) as { items: unknown[] };
    expect(Array.isArray(items), list).toBe(true);
    const csv = (await porch(list, '--csv')).out;
    expect(csv, list).toMatch(/^[A-Z][A-Z ,]+\r\n/);
    const inQuotes = (csv.match(/"/g)?.length ?? 0) / 2;
    expect(csv.split('\r\n').length - 2, list).toBeLessThanOrEqual(items.length + inQuotes);
  }
  const both = await porch('tickets', '--json', '--csv');
  expect([both.code, JSON.parse(both.err)]).toEqual([
    2,
    { error: { code: 'WRONG_CALL', message: expect.stringContaining('cannot be used with') as string, exitCode: 2 } },
  ]);
});

it('says every error as JSON where JSON was asked for', async () => {
  for (const [args, code, exitCode] of [
    [['frobnicate'], 'WRONG_CALL', 2],
    [['ask'], 'WRONG_CALL', 2],
    [['sessions', '--limit', 'many'], 'WRONG_CALL', 2],
    [['start', 'MF-999'], 'TICKET_NOT_FOUND', 1],
    [['status', '-s', 'ffffffff'], 'WRONG_CALL', 5],
  ] as const) {
    const answer = await porch(...args, '--json');
    expect([answer.code, answer.out]).toEqual([exitCode, '']);
    expect(JSON.parse(answer.err), args.join(' ')).toMatchObject({ error: { code, exitCode } });
  }
});

it('obeys nothing that a stranger wrote, and keeps its columns in any script', async () => {
  const rest = await house.signedIn();
  const date = new Date(Date.now() + 2 * 86_400_000).toISOString().slice(0, 10);
  const at = (time: string, customerName: string, purpose: string) =>
    rest.book({ date, time, customerName, address: 'bettina.crole@marrowick.example', purpose });
  await at('09:00', 'Bettina Crole', 'plain');
  await at('09:30', '港町ランプ', '=HYPERLINK("https://elsewhere.example")');
  await at('10:00', 'مكتب', '\u001b]0;gone\u0007\u001b[2Jblank');
  const { out } = await porch('bookings');

  expect(out).not.toMatch(/[\u0000-\u0009\u000b-\u001f]/);
  expect(out).toContain('·]0;gone··[2Jblank');
  const csv = (await porch('bookings', '--csv')).out;
  expect(csv).toContain(`"'=HYPERLINK(""https://elsewhere.example"")"`);
});

it('keeps several sign-ins apart, one for each profile', async () => {
  const rune = ['sign-in', '--service', house.url, '--email', 'rune.takahashi@marrowick.example', '--password-stdin'];
  expect((await porch('--profile', 'night', ...rune)).out).toContain('Rune Takahashi');
  const names = async (...args: string[]) =>
    (JSON.parse((await porch(...args, 'profiles', '--json')).out) as { items: Record<string, unknown>[] }).items;
  expect(await names()).toMatchObject([
    { name: '', isCurrent: true, technician: 'Pim Aldersey' },
    { name: 'night', isCurrent: false, technician: 'Rune Takahashi' },
  ]);
  expect((await names('--profile', 'night')).map(({ isCurrent }) => isCurrent)).toEqual([false, true]);
  expect((await porch('--profile', 'night', 'sign-out')).code).toBe(0);
  expect((await porch('--profile', 'night', 'waiting')).code).toBe(3);
  expect((await porch('waiting')).code).toBe(0);
  expect((await porch('--profile', '../pim', 'waiting')).err).toContain('no name of a profile');
});

it('completes in a real shell what is begun', async () => {
  const bin = join(house.folder, 'bin');
  mkdirSync(bin);
  symlinkSync(join(inject('root'), 'dist', 'porch.mjs'), join(bin, 'porch.mjs'));
  writeFileSync(
    join(bin, 'porch'),
    `#!/bin/sh\nexec "${process.execPath}" "${join(inject('root'), 'dist', 'porch.mjs')}" "$@"\n`,
  );
  chmodSync(join(bin, 'porch'), 0o755);
  const script = (await porch('completion', 'bash')).out;
  const complete = (...words: string[]) => {
    const line = `${script}\nCOMP_WORDS=(porch ${words.map((word) => `'${word}'`).join(' ')}); COMP_CWORD=${words.length}; _porch; printf '%s\\n' "\${COMPREPLY[@]}"`;
    const { stdout } = spawnSync('bash', ['--norc', '-c', line], {
      encoding: 'utf8',
      env: { ...process.env, PATH: `${bin}:${process.env['PATH'] ?? ''}`, PORCH_HOME: join(house.folder, 'pim') },
    });
    return stdout.trim().split('\n');
  };
  expect(complete('sess')).toEqual(['sessions']);
  expect(complete('outcome', 're')).toEqual(['resolved']);
  expect(complete('invite', 'mail', '--language', '')).toEqual(['de', 'en', 'nb']);
  expect(complete('sessions', '--out')).toEqual(['--outcome']);
  expect(complete('--profile', 'ni')).toEqual(['night']);
  expect(complete('keep')).toEqual(['keep-safe-point']);
  expect((await porch('completion', 'zsh')).out).toContain('#compdef porch');
  expect((await porch('completion', 'fish')).out).toContain('complete -c porch');
});

it('has a manual page with every command, which a formatter takes', async () => {
  const page = (await porch('manual')).out;
  const help = (await porch('--help')).out;
  const commands = [...help.matchAll(/^ {2}([a-z][a-z-]+)(?= )/gm)]
    .map(([, name]) => name ?? '')
    .filter((name) => name !== 'porch');
  expect(commands.length).toBeGreaterThan(40);
  for (const name of commands.filter((one) => one !== 'help'))
    expect(page).toContain(`.B ${name.replaceAll('-', '\\-')}`);
  expect(page).not.toMatch(/^(keep|complete)$/m);
  // Formatters take other letters only where they are told how those are written.
  expect(page).toMatch(/^[\n -~]+$/);
  if (!existsSync('/usr/bin/groff')) return;
  const { stderr, status } = spawnSync('groff', ['-man', '-Tutf8', '-ww', '-z'], { input: page, encoding: 'utf8' });
  expect([status, stderr]).toEqual([0, '']);
});

it('looks at itself, and says what to do', async () => {
  const well = await porch('doctor');
  expect([well.code, well.out]).toEqual([0, expect.stringMatching(/well +live line +opens/)]);
  const stranger = await house.porch('nobody', ['doctor', '--json']);
  const { items } = JSON.parse(stranger.out) as { items: { what: string; isWell: boolean; words: string }[] };
  expect(stranger.code).toBe(1);
  expect(items.find(({ what }) => what === 'sign-in')).toMatchObject({
    isWell: false,
    words: expect.stringContaining('porch sign-in') as string,
  });
  const rest = await house.signedIn();
  const others = (await rest.signIns()).filter(({ program }) => !program.includes('node'));
  expect(others.length).toBeGreaterThan(0);
  await rest.endSignIns('all-others');
  await until('the end to be seen', async () => /sign-in lasts +it has ended/.test((await porch('doctor')).out));
  await house.killService();
  expect((await porch('doctor')).out).toMatch(/LOOK +service +/);
});
