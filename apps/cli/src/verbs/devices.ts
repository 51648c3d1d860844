import { daysLeft, techniciansAct } from '@porch/core';
import type { DeviceView } from '@porch/wire';
import { readHidden, rest, show, type CommonOptions } from './common.ts';
import { CliError, exitCodes } from '../exit-codes.ts';
import { callKeeper, startKeeper } from '../keeper/call-keeper.ts';
import { printLine, printList } from '../print.ts';
import { book, desk, results, speech, wrong } from '../words.ts';

/* Devices with a standing consent, from the terminal. */

async function deviceNamed(given: string): Promise<DeviceView> {
  const wanted = given.toLowerCase();
  const all = await rest().devices();
  const found = all.find((d) => d.name.toLowerCase() === wanted || d.id.startsWith(wanted));
  if (!found) throw new CliError(wrong.noDevice({ name: given }), exitCodes.noSession);
  return found;
}

export async function devices(words: readonly string[], options: CommonOptions): Promise<void> {
  const found = await rest().devices(words.join(' '));
  printList(
    { items: found },
    options,
    [
      ['DEVICE', (d) => d.name],
      ['CUSTOMER', (d) => d.customerName],
      ['STATE', (d) => desk.devices.states[d.state]],
      ['ALLOWED', (d) => speech.list(d.allowed.map((p) => techniciansAct(p, book)))],
      ['DAYS', (d) => String(daysLeft(d.untilMs, Date.now()))],
      [
        'LAST VISIT',
        (d) =>
          d.lastVisit
            ? results.lastVisit({
                when: speech.fromNow(d.lastVisit.atMs - Date.now()),
                name: d.lastVisit.technicianName,
              })
            : '',
      ],
    ],
    results.noDevices,
  );
}

interface Door {
  secret: { name: string; triesLeft?: number };
  isIn: boolean;
  isOver: boolean;
}
function tellDoor(door: Door, options: CommonOptions): void {
  const { name, triesLeft = 0 } = door.secret;
  show(door, options, () => {
    if (door.isIn) printLine(results.doorIn);
    else if (door.isOver) printLine(results.doorOver);
    else if (name === 'impostor') printLine(results.doorImpostor);
    else if (name === 'wrong') printLine(results.doorWrong({ left: triesLeft }));
    else printLine(results.doorNobody);
  });
  if (!door.isIn) process.exitCode = exitCodes.refused;
}

export async function visit(
  name: string,
  options: CommonOptions & { ticket?: string; passphraseStdin?: boolean; askThere?: boolean; wait: string },
): Promise<void> {
  const device = await deviceNamed(name);
  const words = options.askThere
    ? undefined
    : await readHidden(results.passphrase, options.passphraseStdin ?? false, wrong.usePassphraseOrAsk);
  const { session } = await rest().start({
    deviceId: device.id,
    ...(options.ticket ? { ticketRef: options.ticket } : {}),
  });
  await startKeeper(session.id);
  if (!options.json) printLine(results.connecting({ id: session.id.slice(0, 8), device: device.name }));
  const waitMs = Number(options.wait) * 1000;
  tellDoor(
    (await callKeeper(
      session.id,
      words === undefined ? { call: 'askWhoIsThere', waitMs } : { call: 'prove', words, waitMs },
    )) as Door,
    options,
  );
}

export async function prove(options: CommonOptions & { passphraseStdin?: boolean; wait: string }): Promise<void> {
  const words = await readHidden(results.passphrase, options.passphraseStdin ?? false, wrong.usePassphraseStdin);
  tellDoor(
    (await callKeeper(options.session, { call: 'prove', words, waitMs: Number(options.wait) * 1000 })) as Door,
    options,
  );
}

export async function askThere(options: CommonOptions & { wait: string }): Promise<void> {
  tellDoor(
    (await callKeeper(options.session, { call: 'askWhoIsThere', waitMs: Number(options.wait) * 1000 })) as Door,
    options,
  );
}

export async function giveUp(name: string, options: CommonOptions): Promise<void> {
  const device = await deviceNamed(name);
  await rest().forgetDevice(device.id);
  show({ deviceId: device.id }, options, () =>
    printLine(results[device.state === 'offline' ? 'givenUpLater' : 'givenUp']({ device: device.name })),
  );
}
