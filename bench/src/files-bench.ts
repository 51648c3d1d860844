import { FileTransfers, LocalPicture, WatchedPictures, type LiveConnection } from '@porch/client';
import { fileToSend } from '@porch/client/node';
import { allPermissions, abilityOf } from '@porch/core';
import { spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { closeSync, mkdirSync, mkdtempSync, openSync, readFileSync, rmSync, symlinkSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { freePort, type PersonAtDesk } from '@porch/demo';
import { allow } from './allow.ts';
import { BenchHouse, lookAndWork, processorMs, until } from './bench-house.ts';
import { codecs } from './codecs.ts';
import { KeyTimer } from './key-timer.ts';
import type { Row } from './row.ts';

const [WIDTH, HEIGHT] = [1280, 800];
const filePermissions = allPermissions.filter((one) => abilityOf.get(one) === 'files');
const MEGABYTE = 1024 * 1024;
const KEYS_AT_REST = 60;
const LONGEST_MS = 600_000;

/** A large file to the customer's computer, against `scp -3` over the same hops: out of one place, through us, into another. */
export async function filesBench(options: { megabytes: string; json?: boolean }): Promise<void> {
  const megabytes = Number(options.megabytes);
  const folder = mkdtempSync('/dev/shm/porch-bench-files-');
  const house = await BenchHouse.openWithTickets({ PORCH_MAX_FILE_MB: options.megabytes });
  try {
    const path = join(folder, 'sailings.db');
    const file = openSync(path, 'w');
    const block = randomBytes(MEGABYTE);
    for (let i = 0; i < megabytes; i++) {
      block.writeUInt32LE(i);
      writeSync(file, block);
    }
    closeSync(file);
    const yardstick = await withScp(folder, path);
    // Both end in memory: what a disk of this machine does is no part of it.
    mkdirSync(join(house.folder, 'home'));
    symlinkSync(folder, join(house.folder, 'home', 'Downloads'));
    const rows = await given(house, path, megabytes, yardstick);
    if (options.json) process.stdout.write(`${JSON.stringify(rows, undefined, 2)}\n`);
    else for (const { what, value, aim } of rows) process.stdout.write(`${what}: ${value} (aim: ${aim})\n`);
  } finally {
    await house.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function given(
  house: BenchHouse,
  path: string,
  megabytes: number,
  yardstickMs: number | undefined,
): Promise<Row[]> {
  const rest = await house.signedIn();
  const started = await rest.start({ ticketRef: 'MF-201' });
  const { link } = await rest.invite(started.session.id, { way: 'ticket-comment' });
  const technician = await house.technician(rest, started.session.id);
  const { desktop, person, doorstepPid } = await house.withDoorstep(link, WIDTH, HEIGHT, { programs: 'none' });
  await until('the session', () => technician.state.phase.name === 'live');
  for (const permission of [...lookAndWork, ...filePermissions])
    await allow(technician, permission, () => person.answer(true, 1_200));
  const look = new WatchedPictures(technician);
  const picture = new LocalPicture(technician, 0, codecs);
  look.open(picture);
  await until('the picture', () => picture.viewer.picture.isComplete);
  const keys = await KeyTimer.open(technician, picture, desktop.display);
  let count = 0;
  const quietMs = await keys.p95(() => ++count > KEYS_AT_REST);

  const cost = await moved({ technician, person, doorstepPid, keys }, path);
  keys.close();
  look.close();
  person.close();
  technician.close();
  const { tookMs, busyMs, ownMs, doorstepMs } = cost;
  const rate = (ms: number) => (megabytes * 1_000) / ms;
  const ratio =
    yardstickMs === undefined
      ? 'scp or sshd is not installed (Debian: openssh-server)'
      : `${(yardstickMs / tookMs).toFixed(2)} of the rate of scp -3 (${rate(yardstickMs).toFixed(0)} MB/s)`;
  return [
    {
      what: `files: ${megabytes} MB to their computer (${(tookMs / 1_000).toFixed(1)} s, ${rate(tookMs).toFixed(0)} MB/s, hashing before the offer among it)`,
      value: ratio,
      aim: '0.5',
    },
    {
      what: 'files: a key meanwhile, p95, and when nothing moves',
      value: `${busyMs.toFixed(0)} ms, ${quietMs.toFixed(0)} ms`,
      aim: '50 ms more',
    },
    {
      what: 'files: processor time for each MB, at the source with its keys and at Doorstep',
      value: `${(ownMs / megabytes).toFixed(1)} ms, ${(doorstepMs / megabytes).toFixed(1)} ms`,
      aim: 'known',
    },
  ];
}

/** The file itself, with keys pressed all the while. */
async function moved(
  at: { technician: LiveConnection; person: PersonAtDesk; doorstepPid: number; keys: KeyTimer },
  path: string,
): Promise<{ tookMs: number; busyMs: number; ownMs: number; doorstepMs: number }> {
  const { technician, person, doorstepPid, keys } = at;
  const transfers = new FileTransfers(technician);
  const source = await fileToSend(path);
  const [doorstepBefore, ownBefore] = [processorMs(doorstepPid), process.cpuUsage()];
  const startedAt = performance.now();
  const fileId = await transfers.offer(source, technician.state.holderId ?? '');
  const hashedMs = performance.now() - startedAt;
  await person.answer(true, 1_200);
  await until('it to move', () => technician.state.slices.files[fileId]?.stage === 'moving');
  const movingAt = performance.now();
  let tookMs = 0;
  const arriving = until('the file', () => technician.state.slices.files[fileId]?.stage === 'arrived', LONGEST_MS).then(
    () => (tookMs = performance.now() - movingAt + hashedMs),
  );
  const busyMs = await keys.p95(() => tookMs > 0);
  await arriving;
  const { user, system } = process.cpuUsage(ownBefore);
  const doorstepMs = processorMs(doorstepPid) - doorstepBefore;
  await source.close();
  await transfers.close();
  return { tookMs, busyMs, ownMs: (user + system) / 1_000, doorstepMs };
}

/** From one server of this machine to another, through this program; in milliseconds. Undefined where there is none. */
async function withScp(folder: string, path: string): Promise<number | undefined> {
  const sshd = '/usr/sbin/sshd';
  if (spawnSync('scp', ['-V']).error || spawnSync(sshd, ['-V']).error) return undefined;
  const key = (name: string) => {
    spawnSync('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', join(folder, name)]);
    return join(folder, name);
  };
  const [host, own] = [key('host'), key('own')];
  const servers: { port: number; stop(): void }[] = [];
  for (let i = 0; i < 2; i++) {
    const port = await freePort();
    const options = [
      ...['-D', '-f', '/dev/null', '-p', String(port), '-h', host],
      ...[
        'ListenAddress=127.0.0.1',
        `AuthorizedKeysFile=${own}.pub`,
        'StrictModes=no',
        'UsePAM=no',
        'PidFile=none',
      ].flatMap((option) => ['-o', option]),
      ...['-o', 'Subsystem=sftp internal-sftp'],
    ];
    const child = spawn(sshd, options, { stdio: 'ignore' });
    servers.push({ port, stop: () => child.kill() });
  }
  try {
    const [from, to] = servers.map(({ port }) => `scp://127.0.0.1:${port}/`);
    const copy = () =>
      spawnSync('scp', [
        ...['-3', '-q', '-i', own, '-o', 'StrictHostKeyChecking=no', '-o', 'UserKnownHostsFile=/dev/null'],
        ...[`${from}${path}`, `${to}${path}.copy`],
      ]);
    for (let tries = 0; ; tries++) {
      const startedAt = performance.now();
      const { status, stderr } = copy();
      if (status === 0) {
        if (!readFileSync(`${path}.copy`).equals(readFileSync(path))) throw new Error('scp copied something else');
        rmSync(`${path}.copy`);
        return performance.now() - startedAt;
      }
      // The servers may still be starting.
      if (tries > 20) throw new Error(`scp: ${stderr.toString()}`);
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  } finally {
    servers.forEach(({ stop }) => stop());
  }
}
