import { endProcess, startDesktop, type XDesktop } from '@porch/demo';
import { House, until, type RecordsLine } from '@porch/testkit';
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/* A Doorstep that is opened at a bad moment: somebody pressed a button and waits, and knows nothing of services and records. */
let house: House;
let line: RecordsLine;
let desktop: XDesktop;
beforeAll(async () => {
  house = await House.open({ hasRecordsLine: true });
  if (!house.recordsLine) throw new Error('no line');
  line = house.recordsLine;
  desktop = await startDesktop(house.processes, {
    name: 'a test',
    home: join(house.folder, 'home'),
    programs: 'none',
  });
});
afterAll(() => house.close());

/** What it said, and how it ended. */
function opened(link: string) {
  const child = spawn(
    process.execPath,
    [join(inject('root'), 'dist', 'doorstep.mjs'), 'join', '--link', link].concat(
      ['--display', desktop.display, '--home', desktop.home, '--downloads', join(desktop.home, 'Downloads')],
      ['--state', join(desktop.home, 'state')],
    ),
    { stdio: ['ignore', 'pipe', 'pipe'] },
  );
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (part: Buffer) => (said += part.toString()));
  return { child, said: () => said };
}

it('waits while the records are away, and comes in when they are back', async () => {
  const { technician, link } = await house.sessionUnderWay();
  line.down();
  const doorstep = opened(`${house.url}/join/${link}`);
  await until('it to be told', () => doorstep.said().includes('trying again'));
  // Others on this computer can list what runs; the link is none of theirs.
  expect(readFileSync(`/proc/${doorstep.child.pid}/cmdline`, 'utf8')).toMatch(/^doorstep\0*$/);
  expect([doorstep.child.exitCode, technician.state.holderId]).toEqual([null, undefined]);
  line.up();
  await until('Doorstep', () => technician.state.holderId);
  await endProcess(doorstep.child);
});

it('waits while the service starts anew', async () => {
  const { technician, link } = await house.sessionUnderWay();
  await house.killService();
  const doorstep = opened(`${house.url}/join/${link}`);
  await until('it to be told', () => doorstep.said().includes('the service does not answer'));
  await house.startService();
  await until('Doorstep', () => technician.state.holderId);
  await endProcess(doorstep.child);
});

it('gives up at once where waiting helps nothing, with words; and when it is closed meanwhile', async () => {
  const wrong = opened(`${house.url}/join/${'x'.repeat(43)}`);
  await until('its end', () => wrong.child.exitCode !== null);
  expect([wrong.child.exitCode, wrong.said()]).toEqual([
    1,
    expect.stringContaining('does not lead to an open session'),
  ]);
  await house.killService();
  const waiting = opened(`${house.url}/join/${'x'.repeat(43)}`);
  await until('it to wait', () => waiting.said().includes('trying again'));
  waiting.child.kill('SIGTERM');
  await until('its end', () => waiting.child.exitCode !== null);
  await house.startService();
});
