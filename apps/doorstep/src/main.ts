import { spawn } from 'node:child_process';
import { homedir } from 'node:os';
import { join as joinPath } from 'node:path';
import { Unreachable } from '@porch/client';
import { readCode } from '@porch/core';
import { AppError } from '@porch/wire';
import { Command, Option } from 'commander';
import { pino } from 'pino';
import { entryPlaces, linkOf, registerLinks, unregisterLinks } from './desktop-entry.ts';
import { runDoorstep, type DoorstepOptions } from './doorstep.ts';
import { runWatchdog } from './watchdog.ts';
import { X11Desktop } from './x11/x11-desktop.ts';
import { DisplayGone } from './x11/x-connection.ts';

interface JoinOptions {
  service?: string;
  code?: string;
  link?: string;
  display?: string;
  state: string;
  home: string;
  downloads: string;
  log: string;
  hide: string[];
}

/** The watchdog lives in a process of its own, fed through a pipe that closes with us. */
function startWatchdog(display: string): { report(line: string): void; ready: Promise<void> } {
  const child = spawn(process.execPath, [process.argv[1] ?? '', 'watchdog', '--display', display], {
    stdio: ['pipe', 'pipe', 'inherit'],
    detached: true,
  });
  child.stdin.on('error', () => undefined); // It went with its X server; there is nothing to let go of then.
  const ready = new Promise<void>((resolve, reject) => {
    child.stdout.once('data', () => {
      // Only now: until it is there, waiting for it is what keeps this process alive.
      child.unref();
      child.stdout.destroy();
      resolve();
    });
    child.once('exit', () => reject(new DisplayGone('the watchdog could not start')));
  });
  return { report: (line) => void child.stdin.write(`${line}\n`), ready };
}

function invitationOf(options: JoinOptions): Pick<DoorstepOptions, 'serviceUrl' | 'invitation'> {
  if (options.link) {
    const url = URL.canParse(options.link) ? new URL(options.link) : undefined;
    const token = url?.pathname.match(/\/join\/([\w-]+)$/)?.[1];
    if (!url || !token) throw new Error('the link is not a join link; copy it whole, from http to its end');
    return { serviceUrl: url.origin, invitation: { link: token } };
  }
  if (!options.code || !options.service) throw new Error('say --link LINK, or --service URL and --code DIGITS');
  const reading = readCode(options.code);
  if (reading.kind === 'mistyped') throw new Error('one of the digits is wrong; look at the code once more');
  if (reading.kind !== 'code') throw new Error('a code has eight digits');
  return { serviceUrl: options.service.replace(/\/$/, ''), invitation: { code: reading.digits } };
}

async function join_(options: JoinOptions): Promise<void> {
  const display = options.display ?? process.env['DISPLAY'];
  if (!display) throw new Error('there is no display: set DISPLAY, or say --display :0');
  const log = pino({ level: options.log, base: null }, pino.destination(2));
  const abort = new AbortController();
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => abort.abort());
  const from = invitationOf(options);
  const watchdog = startWatchdog(display);
  await watchdog.ready;
  const desktop = await X11Desktop.open(
    display,
    (error) => log.warn({ why: error.message }, 'the X server complained'),
    (what, number, isDown) => watchdog.report(`${what} ${number} ${isDown ? 'down' : 'up'}`),
  );
  try {
    for (const words of options.hide)
      if (!(await desktop.hideTitled(words)))
        process.stderr.write(`doorstep: no window is called “${words}” now; nothing is hidden for it.\n`);
    const why = await runDoorstep(
      { ...from, desktop, stateFolder: options.state, home: options.home, downloads: options.downloads, log },
      abort.signal,
    );
    process.stdout.write(`Doorstep ends: ${why}.\n`);
  } finally {
    await desktop.close();
  }
}

const program = new Command('doorstep')
  .description('Lets a technician help you at this computer, and only as far as you say yes.')
  .version('0.1.0');
const joinCommand = program
  .command('join')
  .description('join a session, by the link from the page or by the code you were told')
  .option('--link <link>', 'the join link')
  .option('--service <url>', 'the address of the help desk, with --code')
  .option('--code <digits>', 'the one-time code, for example "4127 9035"')
  .option('--display <display>', 'the X display to share; default: DISPLAY')
  .option(
    '--state <folder>',
    'where what you decided is kept until it is delivered',
    joinPath(homedir(), '.local', 'state', 'zesty-porch'),
  )
  .option('--home <folder>', 'files may be fetched from within this folder only', homedir())
  .option('--downloads <folder>', 'where files that you take are put', joinPath(homedir(), 'Downloads'))
  .option(
    '--hide <title>',
    'never show windows of the program whose title has these words; may be said again',
    (words: string, all: string[]) => [...all, words],
    [],
  )
  .addOption(
    new Option('--log <level>', 'what to tell on standard error')
      .choices(['error', 'warn', 'info', 'silent'])
      .default('warn'),
  )
  .addHelpText(
    'after',
    '\nExamples:\n  doorstep join --link https://help.marrowick.example/join/…\n  doorstep join --service https://help.marrowick.example --code "4127 9035"\n\nEnds with 0 when the session ended, 1 when it could not begin, 2 when it was called wrongly.',
  )
  .action(join_);
program
  .command('open')
  .description('join the session of a link that was opened in the browser; what the desktop calls')
  .argument('<url>', 'zesty-porch: and the join link')
  .action(async (url: string) => {
    await joinCommand.parseAsync(['--link', linkOf(url)], { from: 'user' });
  });
program
  .command('register')
  .description('let links of sessions open Doorstep, for this account alone')
  .action(() => {
    const file = registerLinks(entryPlaces(process.env, homedir()), [process.execPath, process.argv[1] ?? '']);
    process.stdout.write(`Links of sessions open Doorstep now (${file}). To undo it: doorstep unregister\n`);
  });
program
  .command('unregister')
  .description('let links open nothing any longer; leaves nothing behind')
  .action(() => {
    unregisterLinks(entryPlaces(process.env, homedir()));
    process.stdout.write('Links of sessions open nothing on this account any longer.\n');
  });
program
  .command('watchdog', { hidden: true })
  .requiredOption('--display <display>')
  .action((options: { display: string }) => runWatchdog(options.display));

program.parseAsync().then(
  () => process.exit(0),
  (error: unknown) => {
    const isExpected = error instanceof AppError || error instanceof Unreachable || error instanceof DisplayGone;
    process.stderr.write(`doorstep: ${String((error as Error).message)}\n`);
    process.exit(isExpected ? 1 : 2);
  },
);
