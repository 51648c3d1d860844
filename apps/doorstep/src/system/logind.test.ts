import dbus, { Message, type MessageBus } from '@particle/dbus-next';
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { Logind } from './logind.ts';

const NAME = 'org.freedesktop.login1';
let folder: string;
let daemon: ChildProcess;
let address: string;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'bus-'));
  address = `unix:path=${join(folder, 'bus')}`;
  daemon = spawn('dbus-daemon', ['--session', '--nofork', '--print-address', `--address=${address}`], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  if (daemon.stdout) await once(daemon.stdout, 'data');
});
afterEach(async () => {
  const gone = once(daemon, 'exit');
  daemon.kill();
  await gone;
  rmSync(folder, { recursive: true });
});

/** A logind that goes without an answer once it is told to restart the computer, or before it has said that it does. */
async function goingLogind(says: boolean[]): Promise<MessageBus> {
  const bus = dbus.sessionBus({ busAddress: address });
  await once(bus, 'connect');
  await bus.requestName(NAME, 0);
  bus.addMethodHandler((call: Message) => {
    if (call.member !== 'Reboot') return false;
    for (const isGoing of says)
      bus.send(Message.newSignal('/org/freedesktop/login1', `${NAME}.Manager`, 'PrepareForShutdown', 'b', [isGoing]));
    setImmediate(() => bus.disconnect());
    return true;
  });
  return bus;
}

it.each([
  ['goes down once it said so, whether or not it answers', [true], true],
  ['does not where it never said so', [], false],
  ['does not where it said that it thought better of it', [true, false], false],
] as const)('a restart %s', async (_what, says, isDone) => {
  await goingLogind([...says]);
  const logind = await Logind.open(address);
  const heard: string[] = [];
  await logind.onGoingDown(() => heard.push('it goes down'));
  const restart = logind.restart().then(
    () => true,
    () => false,
  );
  expect(await restart).toBe(isDone);
  expect(heard).toHaveLength(says.filter((isGoing) => isGoing).length);
  logind.close();
});
