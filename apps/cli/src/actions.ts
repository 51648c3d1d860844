import { RestClient, safeAddress, UnsafeAddress } from '@porch/client';
import { readHidden as readFromTerminal } from '@porch/client/terminal';
import {
  allPermissions,
  carriedWays,
  formatBytes,
  formatCode,
  formatSecondNumber,
  rulesOf,
  Permission,
  readAloud,
  replay,
  tellLedger,
  verifyChain,
  whyNotWords,
  type InvitationWay,
  type Language,
  type Outcome,
  type SessionCommand,
  type WhyNot,
} from '@porch/core';
import {
  AppError,
  type BookingView,
  decodeLedgerRow,
  LedgerView,
  readLedgerRow,
  type InputAct,
  type TechnicianView,
} from '@porch/wire';
import { readFileSync, writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { CliError, exitCodes } from './exit-codes.ts';
import { forgetCredentials, keepHead, readCredentials, readHeads, writeCredentials } from './home.ts';
import { fetchBytes, nodeExchange } from './http-exchange.ts';
import { callKeeper, startKeeper } from './keeper/call-keeper.ts';
import { ago, clock, countDown, printJson, printLine, printTable } from './print.ts';

export interface CommonOptions {
  json?: boolean;
  session?: string;
}
const ANSWER_WAIT_MS = 120_000;
const PICTURE_WAIT_MS = 15_000;

/** Where customers type a code: what a technician says aloud. */
const frontDoor = (): string => new URL(readCredentials().url).host;

export function rest(): RestClient {
  const { url, token } = readCredentials();
  return new RestClient(nodeExchange(safeAddress(url)), token);
}

/** Prints the value as JSON, or as people read it. */
export function show(value: unknown, options: CommonOptions, inWords: () => void): void {
  if (options.json) printJson(value);
  else inWords();
}

async function readPassword(fromStdin: boolean): Promise<string> {
  if (process.env['PORCH_PASSWORD']) return process.env['PORCH_PASSWORD'];
  return readHidden('Password: ', fromStdin, 'Use --password-stdin, or PORCH_PASSWORD.');
}

/** What nobody looking on, no list of processes and no history of a shell is to see. */
export async function readHidden(prompt: string, fromStdin: boolean, otherwise: string): Promise<string> {
  const said = await readFromTerminal(prompt, fromStdin);
  if (said === undefined) throw new CliError(`There is no terminal to ask at. ${otherwise}`, exitCodes.wrongCall);
  return said;
}

export async function signIn(
  options: CommonOptions & { service: string; email: string; passwordStdin?: boolean },
): Promise<void> {
  const password = await readPassword(options.passwordStdin ?? false);
  const answer = await new RestClient(nodeExchange(safeAddress(options.service))).signIn(
    options.email,
    password,
    'token',
  );
  writeCredentials({ url: options.service, token: answer.token ?? '', name: answer.technician.name });
  show({ technician: answer.technician, expiresAtMs: answer.expiresAtMs }, options, () =>
    printLine(`Signed in as ${answer.technician.name} (${answer.technician.team}).`),
  );
}

export async function signOut(): Promise<void> {
  await rest().signOut();
  forgetCredentials();
  printLine('Signed out.');
}

export async function waiting(options: CommonOptions): Promise<void> {
  const porch = await rest().porch();
  show(porch, options, () => {
    if (porch.handovers.length) {
      printLine('Colleagues ask you to take over:');
      printTable(
        ['HANDOVER', 'FROM', 'LEFT', 'ABOUT'],
        porch.handovers.map((h) => [
          h.handoverId.slice(0, 8),
          h.fromName,
          countDown(h.remainingMs),
          h.brief.split('\n')[0] ?? '',
        ]),
      );
      printLine('');
    }
    if (porch.waiting.length)
      printTable(
        ['ENTRY', 'WAITS', 'WHO', 'LANG', 'OFFER', 'TOPIC', 'ABOUT'],
        porch.waiting.map((e) => [
          e.id.slice(0, 8),
          ago(e.sinceMs, porch.nowMs),
          e.name,
          e.language,
          e.offer
            ? e.offer.isMine
              ? `yours ${countDown(e.offer.remainingMs)}`
              : (e.offer.technicianName.split(' ')[0] ?? '')
            : '',
          e.topic,
          e.description,
        ]),
      );
    else printLine('Nobody is waiting.');
    if (porch.undelivered)
      printLine(`${porch.undelivered} notes wait for the ticket system; they are delivered when it answers.`);
  });
}

export async function setHere(isAway: boolean, options: CommonOptions & { minutes?: string }): Promise<void> {
  const minutes = Number(options.minutes ?? 60);
  const state = await rest().setMyState({ isAway, ...(isAway ? {} : { minutes }) });
  show(state, options, () =>
    printLine(isAway ? 'You are away.' : `You are here for ${minutes} minutes. Offers: porch waiting`),
  );
}

export async function notNow(given: string, options: CommonOptions): Promise<void> {
  const entry = (await rest().porch()).waiting.find((e) => e.id.startsWith(given.toLowerCase()));
  if (!entry) throw new CliError(`Nobody is waiting with entry ${given}. See: porch waiting`, exitCodes.noSession);
  await rest().notNow(entry.id);
  show({ entry: entry.id }, options, () => printLine('They go on to the next.'));
}

const bookingRow = (b: BookingView) => [
  b.id.slice(0, 8),
  `${b.wallTime.date} ${b.wallTime.time}`,
  `${b.minutes} min`,
  b.customerName,
  b.delivery ?? '',
  b.purpose,
];

export async function bookings(options: CommonOptions): Promise<void> {
  const found = await rest().bookings();
  show(found, options, () => {
    if (found.length) printTable(['BOOKING', 'WHEN', 'LENGTH', 'CUSTOMER', 'TOLD', 'ABOUT'], found.map(bookingRow));
    else printLine('Nothing is booked.');
  });
}

export async function book(
  options: CommonOptions & {
    customer: string;
    mail: string;
    date: string;
    time: string;
    zone?: string;
    minutes: string;
    purpose: string;
    ticket?: string;
    telephone?: string;
    language: Language;
    for?: string;
  },
): Promise<void> {
  const technicianId = options.for === undefined ? undefined : (await colleagueNamed(options.for)).id;
  const made = await rest().book({
    customerName: options.customer,
    address: options.mail,
    date: options.date,
    time: options.time,
    minutes: Number(options.minutes),
    purpose: options.purpose,
    language: options.language,
    ...(options.zone ? { timeZone: options.zone } : {}),
    ...(options.ticket ? { ticketRef: options.ticket } : {}),
    ...(technicianId ? { technicianId } : {}),
    ...(options.telephone ? { telephone: options.telephone } : {}),
  });
  show(made, options, () =>
    printLine(
      `Booking ${made.id.slice(0, 8)}: ${made.wallTime.date} ${made.wallTime.time} (${made.timeZone}), told by mail.`,
    ),
  );
}

async function findBooking(given: string): Promise<BookingView> {
  const found = (await rest().bookings()).find((b) => b.id.startsWith(given.toLowerCase()));
  if (!found) throw new CliError(`There is no booking ${given}. See: porch bookings`, exitCodes.noSession);
  return found;
}

export async function moveBooking(
  given: string,
  options: CommonOptions & { date: string; time: string; minutes: string },
): Promise<void> {
  const { id } = await findBooking(given);
  const moved = await rest().moveBooking(id, {
    date: options.date,
    time: options.time,
    minutes: Number(options.minutes),
  });
  show(moved, options, () =>
    printLine(`Moved to ${moved.wallTime.date} ${moved.wallTime.time}; the customer is told.`),
  );
}

export async function cancelBooking(given: string, options: CommonOptions & { remark: string }): Promise<void> {
  const { id } = await findBooking(given);
  const cancelled = await rest().cancelBooking(id, options.remark);
  show(cancelled, options, () => printLine('Cancelled; the customer is told.'));
}

export async function tickets(words: string[], options: CommonOptions): Promise<void> {
  const porch = words.length ? undefined : await rest().porch();
  const found = porch ? porch.tickets : await rest().tickets(words.join(' '));
  show(found, options, () => {
    if (porch?.ticketTrouble) printLine(`${porch.ticketTrouble}.`);
    if (found.length)
      printTable(
        ['TICKET', 'STATE', 'REQUESTER', 'TITLE'],
        found.map((t) => [t.ref, t.state, t.requester.name, t.title]),
      );
    else printLine('No tickets.');
  });
}

export async function sessions(words: string[], options: CommonOptions): Promise<void> {
  const found = await rest().sessions(words.join(' '));
  show(found, options, () => {
    if (found.length)
      printTable(
        ['SESSION', 'STATE', 'TICKET', 'CUSTOMER', 'OUTCOME', 'ABOUT'],
        found.map((s) => [
          s.id.slice(0, 8),
          s.phase,
          s.ticketRef ?? '',
          s.customerName ?? '',
          s.outcome ?? '',
          s.purpose,
        ]),
      );
    else printLine('No sessions.');
  });
}

/** A session by the start of its id, by its ticket, or the one opened last. */
async function findSession(given: string | undefined): Promise<string> {
  const all = await rest().sessions();
  const wanted = given?.toLowerCase();
  const found = wanted ? all.find((s) => s.id.startsWith(wanted) || s.ticketRef?.toLowerCase() === wanted) : all[0];
  if (!found)
    throw new CliError(
      given ? `There is no session ${given}. See: porch sessions` : 'There are no sessions yet.',
      exitCodes.noSession,
    );
  return found.id;
}

export async function start(ticketRef: string | undefined, options: CommonOptions & { entry?: string }): Promise<void> {
  const client = rest();
  let queueEntryId: string | undefined;
  if (options.entry) {
    const wanted = options.entry.toLowerCase();
    queueEntryId = (await client.porch()).waiting.find((e) => e.id.startsWith(wanted))?.id;
    if (!queueEntryId)
      throw new CliError(`Nobody is waiting with entry ${options.entry}. See: porch waiting`, exitCodes.noSession);
  }
  const started = await client.start({
    ...(ticketRef ? { ticketRef } : {}),
    ...(queueEntryId ? { queueEntryId } : {}),
  });
  await startKeeper(started.session.id);
  show(started, options, () => {
    printLine(`Session ${started.session.id.slice(0, 8)}: ${started.session.purpose}`);
    printLine(
      `Code     ${formatCode(started.code.digits)}   (${countDown(started.code.remainingMs)} left${started.isNew ? '' : ', unused so far'})`,
    );
    printLine(`Aloud    ${readAloud(started.code.digits, 'en')}`);
    printLine(`Second   ${formatSecondNumber(started.code.secondNumber)}   (only if their page asks for it)`);
    printLine(`Link     ${started.link}`);
    printLine(`Say:     “Please open ${frontDoor()} in your browser and type the code I read to you.”`);
  });
}

export async function openSession(given: string | undefined, options: CommonOptions): Promise<void> {
  const id = await findSession(given);
  await startKeeper(id);
  show({ sessionId: id }, options, () => printLine(`Session ${id.slice(0, 8)} is open here.`));
}

export async function code(options: CommonOptions & { new?: boolean; withdraw?: boolean }): Promise<void> {
  const id = await findSession(options.session);
  if (options.withdraw) {
    await rest().withdrawCode(id);
    show({ withdrawn: true }, options, () => printLine('The code is withdrawn.'));
    return;
  }
  const view = options.new ? await rest().newCode(id) : (await rest().session(id)).code;
  if (!view) throw new CliError('This session has no unused code. Make one: porch code --new', exitCodes.refused);
  show(view, options, () => {
    printLine(`${formatCode(view.digits)}   (${countDown(view.remainingMs)} left)`);
    printLine(readAloud(view.digits, 'en'));
    printLine(`Second number, only if their page asks for it: ${formatSecondNumber(view.secondNumber)}`);
  });
}

/** The package is CommonJS: bundled, all of it is the default export. Loaded when a picture is drawn, and not before. */
async function loadQr(): Promise<typeof import('qrcode')> {
  const loaded = await import('qrcode');
  return (loaded as { default?: typeof import('qrcode') }).default ?? loaded;
}

const wayOf: Readonly<Record<string, InvitationWay>> = {
  link: 'link',
  ticket: 'ticket-comment',
  mail: 'mail',
  text: 'text-message',
  qr: 'qr',
  calendar: 'calendar',
  file: 'join-file',
};
const fileOf: Partial<Record<InvitationWay, { file: 'qr.png' | 'calendar' | 'join-file'; name: string }>> = {
  qr: { file: 'qr.png', name: 'help.png' },
  calendar: { file: 'calendar', name: 'session.ics' },
  'join-file': { file: 'join-file', name: 'help.html' },
};

export async function invite(
  wayName: string,
  address: string | undefined,
  options: CommonOptions & {
    language: Language;
    minutes?: string;
    uses?: string;
    remark: string;
    preview?: boolean;
    output?: string;
  },
): Promise<void> {
  const id = await findSession(options.session);
  const way = wayOf[wayName] ?? 'link';
  const count = (text: string, what: string) => {
    const n = Number(text);
    if (!Number.isInteger(n) || n < 1) throw new CliError(`${what} must be a whole number.`, exitCodes.wrongCall);
    return n;
  };
  const body = {
    way,
    language: options.language,
    remark: options.remark,
    ...(address ? { address } : {}),
    ...(options.minutes ? { minutes: count(options.minutes, '--minutes') } : {}),
    ...(options.uses ? { uses: count(options.uses, '--uses') } : {}),
  };
  const client = rest();
  if (options.preview) {
    const message = await client.previewInvitation(id, body);
    show(message, options, () => {
      if (message.subject) printLine(`${message.subject}\n`);
      printLine(message.text);
    });
    return;
  }
  const invited = await client.invite(id, body);
  const carried = fileOf[way];
  let file: string | undefined;
  if (carried && (options.output ?? way !== 'qr')) {
    const { url, token } = readCredentials();
    const bytes = await fetchBytes(url + client.invitationFilePath(id, invited.invitation.id, carried.file), token);
    file = resolve(options.output ?? carried.name);
    writeFileSync(file, bytes);
  }
  const drawn =
    way === 'qr' && !options.output && !options.json
      ? await (await loadQr()).toString(invited.link, { type: 'utf8' })
      : '';
  show({ ...invited, ...(file ? { file } : {}) }, options, () => {
    if (drawn) printLine(drawn);
    printLine(
      file
        ? `Saved to ${file}`
        : carriedWays.includes(way)
          ? `On its way${invited.invitation.address ? ` to ${invited.invitation.address}` : ''}. See: porch invitations`
          : `Link     ${invited.link}`,
    );
  });
}

export async function invitations(options: CommonOptions): Promise<void> {
  const found = await rest().invitations(await findSession(options.session));
  show(found, options, () =>
    printTable(
      ['INVITATION', 'WAY', 'STATE', 'USES', 'TO', 'WHY'],
      found.map((i) => [
        i.id.slice(0, 8),
        i.way,
        i.delivery,
        `${i.uses}${i.usesAllowed ? `/${i.usesAllowed}` : ''}`,
        i.address ?? '',
        i.why ?? '',
      ]),
    ),
  );
}

export async function uninvite(given: string, options: CommonOptions): Promise<void> {
  const id = await findSession(options.session);
  const found = (await rest().invitations(id)).find((i) => i.id.startsWith(given.toLowerCase()));
  if (!found)
    throw new CliError(`This session has no invitation ${given}. See: porch invitations`, exitCodes.noSession);
  await rest().withdrawInvitation(id, found.id);
  show({ withdrawn: found.id }, options, () => printLine('The invitation is withdrawn.'));
}

const stepSentences: Record<string, string> = {
  '': 'The customer is not here yet. Say: “Please open the front door and type the code.”',
  'page-open': 'They have the page open. Say: “Please read who asks, and press Begin.”',
  'reading-who-asks': 'They are reading who asks. Say: “Take your time; you should see my name there.”',
  'getting-doorstep': 'They are starting Doorstep. Say: “A small window will ask you; it says my name.”',
  'prompt-open': 'A question is open on their screen. Say: “Please look at your screen and answer the question.”',
  ready: 'They are ready.',
};

interface Status {
  phase: string;
  line: string;
  step: string;
  purpose?: string;
  customerName?: string;
  isDoorstepThere: boolean;
  isBrowserThere: boolean;
  permissions: { permission: Permission; standing: string; whyNot?: WhyNot }[];
  files: { name?: string; stage: string; sizeBytes: number }[];
}
const standingWords: Record<string, string> = {
  notAsked: 'not asked',
  waiting: 'waiting',
  allowed: 'allowed',
  saidNo: 'said no',
  lapsed: 'no answer',
  takenBack: 'taken back',
  over: 'over',
};

export async function status(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'status' })) as Status;
  show(value, options, () => {
    printLine(`${value.customerName ?? 'Nobody yet'}: ${value.purpose ?? ''} (${value.phase}, line ${value.line})`);
    printLine(stepSentences[value.step] ?? value.step);
    if (value.isBrowserThere)
      printLine('They show from their browser: for more than looking, ask them to open Doorstep.');
    printTable(
      ['PERMISSION', 'STATE'],
      value.permissions.map((p) => [
        rulesOf(p.permission).label,
        p.whyNot ? `not possible here: ${whyNotWords[p.whyNot]}` : (standingWords[p.standing] ?? p.standing),
      ]),
    );
    if (value.files.length)
      printTable(
        ['FILE', 'SIZE', 'STATE'],
        value.files.map((f) => [f.name ?? '', formatBytes(f.sizeBytes), f.stage]),
      );
  });
}

/** Short names for what is asked every day. */
const shortNames: Record<string, Permission> = {
  see: 'view-screen',
  work: 'control-input',
  give: 'give-files',
  fetch: 'fetch-files',
  keep: 'keep-device',
};

function permissionNamed(name: string): Permission {
  const parsed = Permission.safeParse(shortNames[name] ?? name);
  if (parsed.success) return parsed.data;
  const names = [...Object.keys(shortNames), ...allPermissions.filter((p) => !Object.values(shortNames).includes(p))];
  throw new CliError(`There is no permission ${name}. There are: ${names.join(', ')}.`, exitCodes.wrongCall);
}

export async function ask(names: string[], options: CommonOptions & { wait: string }): Promise<void> {
  const permissions = names.map(permissionNamed);
  const value = (await callKeeper(options.session, {
    call: 'ask',
    permissions,
    waitMs: Number(options.wait) * 1000,
  })) as { permission: Permission; standing: string }[];
  show(value, options, () =>
    value.forEach((v) => printLine(`${rulesOf(v.permission).label}: ${standingWords[v.standing] ?? v.standing}`)),
  );
  if (value.some((v) => v.standing !== 'allowed')) process.exitCode = exitCodes.refused;
}

export async function giveBack(name: string, options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'giveBack', permission: permissionNamed(name) });
  show({}, options, () => printLine('Given back.'));
}

export async function picture(options: CommonOptions & { output: string }): Promise<void> {
  const value = (await callKeeper(options.session, {
    call: 'savePicture',
    file: resolve(options.output),
    waitMs: PICTURE_WAIT_MS,
  })) as { file: string; width: number; height: number };
  show(value, options, () => printLine(`Saved ${value.width}×${value.height} to ${value.file}`));
}

const numberOf = (text: string, what: string): number => {
  const number = Number(text);
  if (!Number.isFinite(number) || number < 0)
    throw new CliError(`${what} must be a number of pixels, not “${text}”.`, exitCodes.wrongCall);
  return number;
};

async function act(acts: InputAct[], options: CommonOptions): Promise<void> {
  const value = await callKeeper(options.session, { call: 'acts', acts });
  show(value, options, () => undefined);
}

export async function click(
  xText: string,
  yText: string,
  options: CommonOptions & { button: 'left' | 'middle' | 'right'; double?: boolean },
): Promise<void> {
  const at = { x: numberOf(xText, 'X'), y: numberOf(yText, 'Y') };
  const once: InputAct[] = [
    { act: 'button', ...at, button: options.button, isDown: true },
    { act: 'button', ...at, button: options.button, isDown: false },
  ];
  await act([{ act: 'move', ...at }, ...once, ...(options.double ? once : [])], options);
}

export async function type(words: string[], options: CommonOptions): Promise<void> {
  const text = words.join(' ');
  const parts = text.match(/[\s\S]{1,1000}/gu) ?? [];
  await act(
    parts.map((part) => ({ act: 'text', text: part })),
    options,
  );
}

export async function press(combinations: string[], options: CommonOptions): Promise<void> {
  const names: Record<string, string> = {
    ctrl: 'Control',
    alt: 'Alt',
    shift: 'Shift',
    meta: 'Meta',
    enter: 'Enter',
    tab: 'Tab',
    esc: 'Escape',
    escape: 'Escape',
    space: ' ',
    backspace: 'Backspace',
    delete: 'Delete',
    up: 'ArrowUp',
    down: 'ArrowDown',
    left: 'ArrowLeft',
    right: 'ArrowRight',
    home: 'Home',
    end: 'End',
    pageup: 'PageUp',
    pagedown: 'PageDown',
  };
  const acts = combinations.flatMap((combination): InputAct[] => {
    const keys = combination.split('+').map((key) => names[key.toLowerCase()] ?? key);
    return [
      ...keys.map((key) => ({ act: 'key' as const, key, isDown: true })),
      ...[...keys].reverse().map((key) => ({ act: 'key' as const, key, isDown: false })),
    ];
  });
  await act(acts, options);
}

export async function turn(direction: string, options: CommonOptions & { steps: string; at?: string }): Promise<void> {
  const steps = Number(options.steps);
  const [x = 0, y = 0] = (options.at ?? '0,0').split(',').map(Number);
  const sign = { up: [0, -1], down: [0, 1], left: [-1, 0], right: [1, 0] }[direction];
  if (!sign) throw new CliError('Turn up, down, left or right.', exitCodes.wrongCall);
  await act([{ act: 'wheel', x, y, stepsX: (sign[0] ?? 0) * steps, stepsY: (sign[1] ?? 0) * steps }], options);
}

async function command(value: SessionCommand, options: CommonOptions, done: string): Promise<void> {
  await callKeeper(options.session, { call: 'command', command: value });
  show({ done: true }, options, () => printLine(done));
}

export const say = (words: string[], options: CommonOptions) =>
  command(
    { type: 'sendChat', messageId: crypto.randomUUID(), text: words.join(' ') },
    options,
    'Sent to the customer.',
  );

export async function aside(words: string[], options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'aside', text: words.join(' ') });
  show({ done: true }, options, () => printLine('Written for colleagues only.'));
}

export async function watch(options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'follow', afterSeq: 0 }, (value) => {
    const entry = value as { atMs: number; sentence: string };
    if (options.json) process.stdout.write(`${JSON.stringify(value)}\n`);
    else printLine(`${clock(entry.atMs)}  ${entry.sentence}`);
  });
}

interface Transfer {
  name?: string;
  stage: string;
  path?: string;
}
/** One list, however many there were. */
function tellTransfers(all: readonly Transfer[], options: CommonOptions): void {
  show(all, options, () => {
    if (!all.length) printLine('Nothing is offered.');
    for (const { name, stage, path } of all)
      printLine(`${name ?? 'The file'}: ${stage === 'arrived' ? `complete${path ? `, in ${path}` : ''}` : stage}`);
  });
  if (all.some(({ stage }) => stage !== 'arrived')) process.exitCode = exitCodes.refused;
}
function progressLine(value: unknown): void {
  const { movedBytes, sizeBytes } = value as { movedBytes: number; sizeBytes: number };
  if (process.stderr.isTTY)
    process.stderr.write(
      `\r${Math.floor((movedBytes / Math.max(1, sizeBytes)) * 100)} % of ${formatBytes(sizeBytes)} `,
    );
}

export async function give(files: string[], options: CommonOptions): Promise<void> {
  const given: Transfer[] = [];
  for (const file of files)
    given.push(
      (await callKeeper(options.session, { call: 'giveFile', path: resolve(file) }, progressLine)) as Transfer,
    );
  tellTransfers(given, options);
}
export async function fetchFile(path: string, options: CommonOptions & { output: string }): Promise<void> {
  const call = { call: 'fetchFile' as const, path, folder: resolve(options.output) };
  tellTransfers([(await callKeeper(options.session, call, progressLine)) as Transfer], options);
}
export async function take(options: CommonOptions & { output: string }): Promise<void> {
  const taken = (await callKeeper(
    options.session,
    { call: 'takeFiles', folder: resolve(options.output) },
    progressLine,
  )) as Transfer[];
  tellTransfers(taken, options);
}

async function colleagueNamed(person: string): Promise<TechnicianView> {
  const wanted = person.toLowerCase();
  const colleague = (await rest().colleagues()).find(
    (c) => c.id === wanted || c.email === wanted || c.name.toLowerCase().includes(wanted),
  );
  if (!colleague) throw new CliError(`There is no colleague “${person}”.`, exitCodes.wrongCall);
  return colleague;
}

export async function handOver(person: string, options: CommonOptions & { remark: string }): Promise<void> {
  const colleague = await colleagueNamed(person);
  await command(
    { type: 'requestHandover', handoverId: crypto.randomUUID(), toTechnicianId: colleague.id, remark: options.remark },
    options,
    `${colleague.name} is asked to take over.`,
  );
}

export async function answerHandover(
  given: string | undefined,
  answer: 'accept' | 'decline',
  options: CommonOptions,
): Promise<void> {
  const client = rest();
  const { handovers } = await client.porch();
  const handover = given ? handovers.find((h) => h.handoverId.startsWith(given.toLowerCase())) : handovers[0];
  if (!handover) throw new CliError('Nobody asks you to take over just now.', exitCodes.noSession);
  const { sessionId } = await client.answerHandover(handover.handoverId, answer);
  if (answer === 'accept') {
    await startKeeper(sessionId);
    // One prompt for the customer lists what the first technician had; they agree for the new key.
    const view = await client.ledger(sessionId);
    const state = replay(view.rows.map(decodeLedgerRow).map(readLedgerRow));
    const from = state.handover?.fromParticipantId ?? '';
    const held = Object.entries(state.standings[from] ?? {})
      .filter(([, s]) => s.name === 'allowed')
      .map(([p]) => p as Permission);
    const wanted: Permission[] = held.length ? held : ['view-screen'];
    const answered = await askAsColleague(sessionId, wanted);
    show({ sessionId, brief: handover.brief, permissions: answered }, options, () => {
      printLine(handover.brief);
      printLine(
        answered.every((a) => a.standing === 'allowed')
          ? 'The customer agreed; the session is yours.'
          : 'The customer did not agree; the session stays where it was.',
      );
    });
    if (answered.some((a) => a.standing !== 'allowed')) process.exitCode = exitCodes.refused;
  } else show({ sessionId }, options, () => printLine('Declined; it goes back.'));
}

interface Answered {
  readonly permission: Permission;
  readonly standing: string;
}
/** Where words must be compared before mouse and keyboard, a colleague asks for those later. */
async function askAsColleague(sessionId: string, wanted: readonly Permission[]): Promise<Answered[]> {
  const askFor = (permissions: readonly Permission[]) =>
    callKeeper(sessionId, {
      call: 'ask',
      permissions: [...permissions],
      waitMs: ANSWER_WAIT_MS,
    }) as Promise<Answered[]>;
  try {
    return await askFor(wanted);
  } catch (error) {
    if (!(error instanceof AppError) || error.code !== 'WORDS_NOT_COMPARED') throw error;
    return askFor(wanted.filter((permission) => permission !== 'control-input'));
  }
}

export async function changeOver(isYes: boolean, options: CommonOptions): Promise<void> {
  const { candidateId } = (await callKeeper(options.session, { call: 'status' })) as { candidateId?: string };
  if (!candidateId) throw new CliError('No other Doorstep wants to take over just now.', exitCodes.noSession);
  await command(
    { type: 'answerChangeOver', participantId: candidateId, isYes },
    options,
    isYes ? 'Changed over; what was allowed before is over.' : 'Sent away; nothing has changed.',
  );
}

export async function signIns(options: CommonOptions & { end?: string; endOthers?: boolean }): Promise<void> {
  const client = rest();
  const all = await client.signIns();
  if (options.end || options.endOthers) {
    const wanted = options.end?.toLowerCase();
    const one = wanted === undefined ? undefined : all.find((s) => s.id.startsWith(wanted));
    if (wanted !== undefined && !one) throw new CliError('There is no such sign-in of yours.', exitCodes.noSession);
    const { ended } = await client.endSignIns(one ? [one.id] : 'all-others');
    show({ ended }, options, () => printLine(`Ended: ${ended}. What was opened with them is closed.`));
    return;
  }
  show(all, options, () =>
    printTable(
      ['ID', 'SINCE', 'FROM', 'WITH'],
      all.map((s) => [
        s.id.slice(0, 8),
        new Date(s.begunAtMs).toLocaleString('en-GB'),
        s.address,
        `${s.isThisOne ? '(this one) ' : ''}${s.program || 'a program that says nothing of itself'}`,
      ]),
    ),
  );
}

export const aim = (what: 'look' | 'work', options: CommonOptions): Promise<void> =>
  command(
    { type: 'chooseAim', aim: what },
    options,
    what === 'look'
      ? 'Their page leads with what it can show by itself. Not possible this way: mouse, keyboard, files, coming back.'
      : 'Their page leads with Doorstep.',
  );

export const askToTry = (options: CommonOptions) =>
  command({ type: 'askToTry' }, options, 'The customer is asked to try it.');
export const end = (options: CommonOptions) =>
  command(
    { type: 'endSession', reason: 'technician', why: 'ended from the command line', fact: undefined },
    options,
    'Ended. Log the outcome: porch outcome resolved',
  );

export async function outcome(
  name: Outcome,
  options: CommonOptions & { note?: string; minutes?: string },
): Promise<void> {
  const id = await findSession(options.session);
  await startKeeper(id);
  const draft = await rest().draft(id);
  const note = options.note ?? draft.note;
  const minutes = options.minutes === undefined ? draft.minutes : numberOf(options.minutes, 'Minutes');
  await callKeeper(id, { call: 'command', command: { type: 'logOutcome', outcome: name, note, minutes } });
  show({ outcome: name, note, minutes }, options, () => printLine(`Logged: ${name}, ${minutes} min.\n${note}`));
}

export async function leave(options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'leave' });
  show({ left: true }, options, () => printLine('Left. The session goes on without you until you open it again.'));
}

export async function ledger(given: string | undefined, options: CommonOptions): Promise<void> {
  const id = await findSession(given ?? options.session);
  const view = await rest().ledger(id);
  const entries = view.rows.map(decodeLedgerRow).map(readLedgerRow);
  const told = tellLedger(entries, 'technician');
  // The whole thing, exact bytes included, so that it can be kept and verified elsewhere.
  show({ ...view, told: told.map(({ seq, atMs, sentence, who }) => ({ seq, atMs, who, sentence })) }, options, () => {
    for (const e of told) printLine(`${String(e.seq).padStart(4)}  ${clock(e.atMs)}  ${e.sentence}`);
    for (const a of view.asides) printLine(`aside ${clock(a.atMs)}  ${a.name}: ${a.text}`);
    const last = told.at(-1);
    if (last) printLine(`Head ${last.seq}:${last.hash}`);
  });
}

export async function verify(
  given: string | undefined,
  options: CommonOptions & { head?: string[]; file?: string },
): Promise<void> {
  const named = (options.head ?? []).map(parseHead);
  const view = options.file
    ? readLedgerFile(options.file)
    : await rest().ledger(await findSession(given ?? options.session));
  const kept = readHeads()[view.sessionId];
  const trusted = [...named, ...(kept ? [kept] : [])];
  const verdict = verifyChain(view.rows.map(decodeLedgerRow), trusted);
  const asides = verifyChain(view.asideRows.map(decodeLedgerRow));
  const value = { sessionId: view.sessionId, trustedHeads: trusted, ledger: verdict, asides };
  show(value, options, () => {
    if (verdict.isWhole) {
      printLine(
        `The ledger is whole: ${verdict.rows} entries${verdict.erased ? `, ${verdict.erased} with erased words` : ''}.`,
      );
      printLine(
        trusted.length
          ? `It holds ${trusted.length === 1 ? 'the trusted head' : 'all trusted heads'}.`
          : 'No trusted head was at hand: a ledger made anew from its start would look as whole. Give one with --head SEQ:HASH.',
      );
      printLine(`Head ${verdict.rows}:${verdict.head}`);
    } else printLine(`The ledger is broken at entry ${verdict.atSeq}: ${verdict.fault}.`);
    if (!asides.isWhole) printLine(`The asides are broken at ${asides.atSeq}: ${asides.fault}.`);
  });
  if (!verdict.isWhole || !asides.isWhole) process.exitCode = exitCodes.notWhole;
  else if (!options.file) keepHead(view.sessionId, { seq: verdict.rows, hash: verdict.head });
}

function readLedgerFile(file: string): LedgerView {
  try {
    const { told: _told, ...view } = JSON.parse(readFileSync(file, 'utf8')) as LedgerView & { told?: unknown };
    return LedgerView.parse(view);
  } catch {
    throw new CliError(`${file} is no ledger as “porch ledger --json” prints it.`, exitCodes.wrongCall);
  }
}

function parseHead(text: string): { seq: number; hash: string } {
  const match = /^(\d+):([0-9a-f]{64})$/.exec(text);
  if (!match?.[1] || !match[2])
    throw new CliError('A head looks like 42:9f3c…, with 64 hexadecimal digits.', exitCodes.wrongCall);
  return { seq: Number(match[1]), hash: match[2] };
}

export async function erase(given: string, options: CommonOptions & { rule: string }): Promise<void> {
  const { erased } = await rest().erase(await findSession(given), options.rule);
  show({ erased }, options, () =>
    printLine(`The personal parts of ${erased} entries are gone; the ledger still verifies.`),
  );
}

/** The one place where a failure becomes an exit code. */
export function explain(error: unknown): { code: string; message: string; exitCode: number } {
  if (error instanceof CliError) return { code: 'WRONG_CALL', message: error.message, exitCode: error.exitCode };
  if (error instanceof UnsafeAddress)
    return { code: 'WRONG_CALL', message: error.message, exitCode: exitCodes.wrongCall };
  if (error instanceof AppError) {
    const isSignIn = error.code === 'SIGN_IN_NEEDED' || error.code === 'SIGN_IN_FAILED';
    return {
      code: error.code,
      message: `${error.message} (${error.code})`,
      exitCode: isSignIn ? exitCodes.signInNeeded : exitCodes.refused,
    };
  }
  const isUnreachable = (error as Error).name === 'Unreachable';
  return {
    code: isUnreachable ? 'UNREACHABLE' : 'FAILED',
    message: isUnreachable
      ? `The service cannot be reached: ${(error as Error).message}.`
      : String((error as Error).stack),
    exitCode: isUnreachable ? exitCodes.unreachable : exitCodes.refused,
  };
}
