import { daysLeft, rulesOf } from '@porch/core';
import type { DeviceView } from '@porch/wire';
import { readHidden, rest, show, type CommonOptions } from './common.ts';
import { CliError, exitCodes } from '../exit-codes.ts';
import { callKeeper, startKeeper } from '../keeper/call-keeper.ts';
import { ago, printLine, printList } from '../print.ts';

/* Devices with a standing consent, from the terminal. */

const stateWords: Record<DeviceView['state'], string> = {
  'in-use': 'on, somebody is there',
  away: 'on, nobody is there',
  offline: 'off',
  ended: 'may not be reached',
};

async function deviceNamed(given: string): Promise<DeviceView> {
  const wanted = given.toLowerCase();
  const all = await rest().devices();
  const found = all.find((d) => d.name.toLowerCase() === wanted || d.id.startsWith(wanted));
  if (!found) throw new CliError(`The desk may connect to no device ${given}. See: porch devices`, exitCodes.noSession);
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
      ['STATE', (d) => stateWords[d.state]],
      ['ALLOWED', (d) => d.allowed.map((p) => rulesOf(p).label.toLowerCase()).join(', ')],
      ['DAYS', (d) => String(daysLeft(d.untilMs, Date.now()))],
      [
        'LAST VISIT',
        (d) => (d.lastVisit ? `${ago(d.lastVisit.atMs, Date.now())} ago, ${d.lastVisit.technicianName}` : ''),
      ],
    ],
    'No customer lets the desk come back yet. In a session: porch ask keep',
  );
}

interface Door {
  secret: { name: string; triesLeft?: number };
  isIn: boolean;
  isOver: boolean;
}
function tellDoor(door: Door, options: CommonOptions): void {
  show(door, options, () => {
    if (door.isIn) printLine('You are in. What the standing consent covers is allowed when you ask: porch ask see');
    else if (door.isOver) printLine('Whoever sits there did not want this visit, or nobody answered; it is over.');
    else if (door.secret.name === 'impostor')
      printLine('What answered does not know the passphrase itself. End this session, and tell your lead.');
    else if (door.secret.name === 'wrong')
      printLine(
        door.secret.triesLeft
          ? `That is not the passphrase; ${door.secret.triesLeft} tries are left.`
          : 'The passphrase was wrong too often. Ask whoever sits there: porch ask-there',
      );
    else printLine('Nobody has answered at the device yet. Try again, or send an invitation: porch invite mail');
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
    : await readHidden('Passphrase: ', options.passphraseStdin ?? false, 'Use --passphrase-stdin, or --ask-there.');
  const { session } = await rest().start({
    deviceId: device.id,
    ...(options.ticket ? { ticketRef: options.ticket } : {}),
  });
  await startKeeper(session.id);
  if (!options.json) printLine(`Session ${session.id.slice(0, 8)}: connecting to ${device.name}.`);
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
  const words = await readHidden('Passphrase: ', options.passphraseStdin ?? false, 'Use --passphrase-stdin.');
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
    printLine(
      device.state === 'offline'
        ? `${device.name} is given up; it takes everything away when it is on again.`
        : `${device.name} is given up; nothing is left there.`,
    ),
  );
}
