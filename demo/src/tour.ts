import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { emailOf, PASSWORD } from './marrowick.ts';
import { watchPost } from './post-room.ts';
import {
  administratorRights,
  findingOut,
  newDriverByFile,
  oneAction,
  oneCommandLine,
  oneWayBack,
  restartAndReturn,
} from './tour-finding-out.ts';
import { handsAndEyes, type TourKit } from './tour-hands-and-eyes.ts';
import { stopEndsEverything, stopwatch } from './tour-moments.ts';
import { watchLedger } from './watched-ledger.ts';
import { readTicketsKey, root, setStage, type Stage } from './stage.ts';

const startedAt = Date.now();
const say = (line: string) => process.stdout.write(`${line}\n`);
let steps = 0;
const step = (title: string) => say(`\n${String(++steps).padStart(2)}. ${title}`);

class TourFailed extends Error {}

/** One command of the real command line, as its technician would type it; prints both. */
async function porch(
  home: string,
  args: string[],
  expected = 0,
  input = '',
  hear: (soFar: string) => void = () => undefined,
): Promise<string> {
  say(`    $ porch ${args.map((a) => (/[\s"]/.test(a) ? JSON.stringify(a) : a)).join(' ')}`);
  const { code, out } = await new Promise<{ code: number; out: string }>((resolve) => {
    const child = spawn(process.execPath, [join(root, 'dist', 'porch.mjs'), ...args], {
      env: { ...process.env, PORCH_HOME: home, PORCH_PASSWORD: PASSWORD },
    });
    child.stdin.end(input);
    let text = '';
    child.stdout.on('data', (part: Buffer) => hear((text += part.toString())));
    child.stderr.on('data', (part: Buffer) => (text += part.toString()));
    child.on('exit', (exit) => resolve({ code: exit ?? 1, out: text }));
  });
  for (const line of out.trimEnd().split('\n')) if (line) say(`      ${line}`);
  if (code !== expected) throw new TourFailed(`porch ${args[0]} ended with ${code}, expected ${expected}`);
  return out;
}

function expect(isTrue: boolean, what: string): void {
  say(`    ${isTrue ? '✓' : '✗'} ${what}`);
  if (!isTrue) throw new TourFailed(what);
}

async function whenSaid(home: string, args: string[], words: string): Promise<number> {
  const begunAt = performance.now();
  let tookMs: number | undefined;
  await porch(home, args, 0, '', (soFar) => {
    if (soFar.includes(words)) tookMs ??= performance.now() - begunAt;
  });
  if (tookMs === undefined) throw new TourFailed(`porch ${args[0]} never said ${words}`);
  return tookMs;
}

async function until(what: string, isTrue: () => boolean | Promise<boolean>, timeoutMs = 20_000): Promise<void> {
  const giveUpAt = Date.now() + timeoutMs;
  while (!(await isTrue())) {
    if (Date.now() > giveUpAt) throw new TourFailed(`in vain: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  say(`    ✓ ${what}`);
}

const Status = z.object({ phase: z.string(), isDoorstepThere: z.boolean() });

const kitOf = (pim: string, homes: string, bettina: TourKit['bettina']): TourKit => ({
  porch: (...args) => porch(pim, ...args),
  whenSaid: (args, words) => whenSaid(pim, args, words),
  quietly: (args) => porchQuietly(pim, args),
  watched: () => watchLedger(pim),
  ...{ step, expect, until, homes, bettina },
});

/** On a plain desktop there is no computer to look into. */
async function atHerComputer(kit: TourKit): Promise<void> {
  const isWhole = kit.bettina.desktop.computer !== undefined;
  const atThePoint = isWhole ? await findingOut(kit) : undefined;
  await handsAndEyes(kit);
  if (atThePoint !== undefined) {
    await oneAction(kit);
    await oneCommandLine(kit);
    await oneWayBack(kit, atThePoint);
    await administratorRights(kit);
    await restartAndReturn(kit);
    await newDriverByFile(kit);
  }
}

/** To her and from her: two yeses. */
async function filesEachWay({ porch, bettina, homes }: TourKit): Promise<void> {
  step('Files, each way a permission of its own');
  const sheet = join(homes, 'quayprint-notes.txt');
  writeFileSync(sheet, 'After a driver update set barcode-height to 24.\n'.repeat(4_000));
  // At a whole computer a driver was given before.
  if (!bettina.desktop.computer) await porch(['ask', 'give']);
  await porch(['give', sheet]);
  await until('the file is in her downloads, whole', () =>
    readFileSync(join(bettina.desktop.home, 'Downloads', 'quayprint-notes.txt')).equals(readFileSync(sheet)),
  );
  await porch(['ask', 'fetch'], 1);
  say('    (she said no the first time; a no to this stands for a minute)');
  await porch(['ask', 'fetch'], 1);
}

async function tour(stage: Stage): Promise<void> {
  const homes = join(stage.folder, 'terminals');
  rmSync(homes, { recursive: true, force: true });
  mkdirSync(homes, { recursive: true });
  const [pim, rune] = [mkdtempSync(join(homes, 'p')), mkdtempSync(join(homes, 'r'))];
  const [bettina, samir] = stage.customers;
  if (!bettina || !samir) throw new TourFailed('the customers are missing');
  const quietStatus = async () => Status.parse(JSON.parse(await porchQuietly(pim, ['status', '--json'])));

  step('Pim Aldersey and Rune Takahashi sign in');
  await porch(pim, ['sign-in', '--service', stage.serviceUrl, '--email', emailOf('Pim Aldersey')]);
  await porch(rune, ['sign-in', '--service', stage.serviceUrl, '--email', emailOf('Rune Takahashi')]);

  step('Bettina Crole asks for help on the request page, and Pim sees her wait');
  const entry = await bettina.rest.request({
    name: 'Bettina Crole',
    address: 'bettina.crole@marrowick.example',
    topic: 'Printing',
    language: 'en',
    description: 'The barcode is cut in half',
    ticketRef: 'MF-201',
  });
  expect(entry.place > 0, `her place is ${entry.place}`);
  expect((await porch(pim, ['waiting'])).includes('Bettina Crole'), 'she stands on the porch');
  await bettina.rest.leaveQueue(entry.token ?? '');

  step('A session from ticket MF-201; the join link goes into the ticket, where Bettina reads it');
  await porch(pim, ['tickets']);
  await porch(pim, ['start', 'MF-201']);
  await porch(pim, ['invite', 'ticket']);
  await until(
    'Bettina has come in and Doorstep runs at her desktop',
    async () => (await quietStatus()).isDoorstepThere,
  );
  await porch(pim, ['status']);

  step('Seeing: asked, read, agreed at her own screen');
  await porch(pim, ['say', 'Good morning. May I look at the printer settings with you?']);
  await porch(pim, ['ask', 'see']);
  await porch(pim, ['picture', '-o', join(homes, 'desktop.png')]);
  expect(readFileSync(join(homes, 'desktop.png')).length > 5_000, 'the picture of her desktop is saved');

  await atHerComputer(kitOf(pim, homes, bettina));

  await filesEachWay(kitOf(pim, homes, bettina));

  step('Handing over to Rune Takahashi');
  await porch(pim, ['aside', 'Ask her about the second printer, too.']);
  await porch(pim, ['hand-over', 'Rune', '--remark', 'My ferry leaves at ten past.']);
  await porch(rune, ['waiting']);
  await porch(rune, ['take-over']);
  await porch(rune, ['picture', '-o', join(homes, 'desktop-rune.png')]);
  await porch(pim, ['status'], 5);

  step('Bettina lets the desk come back to this computer, on her own terms');
  await porch(rune, ['ask', 'keep']);
  await until('the desk knows the device', async () =>
    (await porchQuietly(rune, ['devices'])).includes('tern-quay-04'),
  );
  await porch(rune, ['devices']);

  step('Proof first, then the end and the outcome');
  await porch(rune, ['try']);
  await until('Bettina tried it: it works', async () =>
    (await porchQuietly(rune, ['ledger'])).includes('tried: it works'),
  );
  await porch(rune, ['end']);
  await porch(rune, ['outcome', 'resolved']);

  step('What the ticket received');
  await until('outcome, note, chat and what was done are in the ticket', async () => {
    const page = await (await fetch(`${stage.ticketsUrl}/t/MF-201`)).text();
    return page.includes('Outcome: resolved') && page.includes('Good morning') && page.includes('is complete');
  });

  step('The ledger, and that it is whole');
  await porch(rune, ['ledger', 'MF-201']);
  await porch(rune, ['verify', 'MF-201']);
  const receipt = await bettina.rest.receipt();
  expect(
    receipt.technicians.includes('Rune Takahashi') && receipt.lines.length > 10,
    `Bettina has her receipt: ${receipt.lines.length} lines, head ${receipt.head.seq}`,
  );

  step('A visit to her computer, with the passphrase she gives on the telephone; then the desk gives it up');
  await porch(rune, ['visit', 'tern-quay-04', '--passphrase-stdin'], 1, 'otter-lamp-harbour-tern-quilt');
  await porch(rune, ['prove', '--passphrase-stdin'], 0, bettina.passphrase ?? '');
  await porch(rune, ['ask', 'see', 'work']);
  await porch(rune, ['picture', '-o', join(homes, 'visit.png')]);
  await porch(rune, ['end']);
  await porch(rune, ['outcome', 'resolved', '--note', 'The print queue was checked once more.', '--minutes', '2']);
  await porch(rune, ['give-up', 'tern-quay-04']);
  await until(
    'nothing of it is left at her computer',
    () => !existsSync(join(bettina.desktop.home, '.local', 'state', 'zesty-porch', 'standing.json')),
  );

  await onTheBridge({ pim, rune, samir, homes, quietStatus });
}

/** Samir, on the bridge: by a code, a no, rights by leave of the desk, and Stop. */
async function onTheBridge({
  pim,
  rune,
  samir,
  homes,
  quietStatus,
}: {
  readonly pim: string;
  readonly rune: string;
  readonly homes: string;
  readonly samir: Stage['customers'][number];
  quietStatus(): Promise<z.infer<typeof Status>>;
}): Promise<void> {
  step('A one-time code for Samir Oduya, read over the telephone; he mistypes one digit, then says no to control');
  const kit = { ...kitOf(pim, homes, samir), samir };
  await stopwatch(kit);
  await porch(pim, ['ask', 'work'], 1);
  if (samir.desktop.computer) await byLeaveOfTheDesk(pim, rune);
  if (samir.desktop.computer) await stopEndsEverything(kit);
  else await samir.stop();
  await until('the session has ended at once', async () => (await quietStatus()).phase === 'ended');
  await porch(pim, [
    'outcome',
    'follow-up',
    '--note',
    'Will look at the separators with the export sheet at hand.',
    '--minutes',
    '4',
  ]);
}

/** On the bridge nobody is administrator: the desk gives leave for once, and Rune says yes as the second person. */
async function byLeaveOfTheDesk(pim: string, rune: string): Promise<void> {
  await porch(pim, ['ask', 'rights']);
  const raising = porch(pim, ['raise-rights', 'look at the chart packages', '--by', 'desk']);
  await until('Rune is asked', async () =>
    (await porchQuietly(rune, ['careful-acts'])).includes('administrator rights'),
  );
  await porch(rune, ['second-yes']);
  await raising;
  await porch(pim, ['lower-rights']);
}

async function porchQuietly(home: string, args: string[]): Promise<string> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [join(root, 'dist', 'porch.mjs'), ...args], {
      env: { ...process.env, PORCH_HOME: home },
    });
    let text = '';
    child.stdout.on('data', (part: Buffer) => (text += part.toString()));
    child.on('exit', () => resolve(text || '{}'));
  });
}

let stage: Stage | undefined;
let code = 0;
try {
  say('The tour of Zesty Porch: everything goes through the real interfaces.');
  const folder = await setStage((line) => say(line.startsWith('  ') ? `    ${line}` : `• ${line}`), 'tour');
  stage = folder;
  const stopWatching = watchPost({
    ...folder,
    ticketsKey: readTicketsKey(folder.folder),
    tell: (line) => say(`    ${line}`),
  });
  const readyAt = Date.now();
  try {
    await tour(stage);
  } finally {
    stopWatching();
  }
  say(
    `\nThe tour is done: ${steps} steps in ${((Date.now() - readyAt) / 1000).toFixed(1)} s, after ${((readyAt - startedAt) / 1000).toFixed(1)} s of starting.`,
  );
} catch (error) {
  code = 1;
  say(`\n✗ The tour stopped: ${error instanceof TourFailed ? error.message : String((error as Error).stack)}`);
} finally {
  await stage?.stop();
}
process.exit(code);
