import { languageOf } from '@porch/words';
import { homedir } from 'node:os';
import { join as joinPath } from 'node:path';
import { Unreachable } from '@porch/client';
import { AppError } from '@porch/wire';
import { Command, Option } from 'commander';
import { pino, type Logger } from 'pino';
import {
  entryPlaces,
  linkOf,
  registerLinks,
  isRegistered,
  registerWaiting,
  unregisterLinks,
  unregisterWaiting,
} from './desktop-entry.ts';
import { standingLines, standingQuestion } from '@porch/host';
import { invitationOf, type Invited } from './invitation-of.ts';
import { installCopy, ownFile, release, removeCopy, sessionInName, versionWords } from './release/self.ts';
import { updateFile } from './release/updater.ts';
import { StandingStore, StandingUnsafe } from './device/standing-store.ts';
import { runWaiting } from './device/waiting.ts';
import { runDoorstep } from './doorstep.ts';
import type { Desktop } from './desktop/desktop.ts';
import { DEVICES } from './camera/v4l2-cameras.ts';
import { withDesktop } from './open-desktop.ts';
import { addRightsCommands } from './rights/rights-commands.ts';
import { addBellCommands } from './desktops/bell-commands.ts';
import { addReturnCommands, type Stay } from './restart/return-commands.ts';
import type { LeftGuard } from './left-guard.ts';
import { runWatchdog } from './watchdog.ts';
import { runRest } from './x11/hands-off/rest-process.ts';
import { DisplayGone } from './x11/server/connection.ts';

interface PlaceOptions {
  display?: string;
  state: string;
  home: string;
  downloads: string;
  cameras: string;
  log: string;
}
interface JoinOptions extends PlaceOptions, Invited {
  hide: string[];
}

const logAt = (level: string) => pino({ level, base: null }, pino.destination(2));

const places = () => entryPlaces(process.env, homedir());
function dropWaiting(): void {
  unregisterWaiting(places());
  removeUnused();
}
/** The copy of this program stays only as long as a link or a sign-in starts it. */
function removeUnused(): void {
  if (!isRegistered(places())) removeCopy(places().dataHome);
}

/** Takes a newer release of the same publisher, if there is one; never in the way of a session. */
async function updateFrom(serviceUrl: string, log: Logger): Promise<void> {
  const file = ownFile();
  if (!file || !release) return;
  const result = await updateFile(file, release, serviceUrl);
  if (result.what !== 'newest') log.warn(result, 'looked for an update');
}
const updateQuietly = (serviceUrl: string, log: Logger): Promise<void> =>
  updateFrom(serviceUrl, log).catch((error: unknown) =>
    log.info({ why: String(error) }, 'no update could be looked for'),
  );

const ofAccount = (
  { state, home, downloads, cameras }: PlaceOptions,
  desktop: Desktop,
  guard: LeftGuard,
  log: Logger,
) => ({
  madeFor: release?.madeFor,
  desktop,
  guard,
  stateFolder: state,
  startOptions: ['--state', state, '--home', home, '--downloads', downloads, '--cameras', cameras],
  home,
  downloads,
  cameras,
  log,
});

const join_ = (options: JoinOptions): Promise<void> => stay(options, invitationOf(options), options.hide);

/** In a session until it ends; and, where a standing consent was made in it, waiting for visits afterwards. */
async function stay(options: PlaceOptions, from: Stay, hide: readonly string[] = []): Promise<void> {
  const log = logAt(options.log);
  await withDesktop(options, log, async (desktop, signal, guard) => {
    for (const words of hide)
      if (!(await desktop.ports.hiding?.hideTitled(words)))
        process.stderr.write(`doorstep: no window is called “${words}” now; nothing is hidden for it.\n`);
    const account = ofAccount(options, desktop, guard, log);
    const store = new StandingStore(options.state);
    let isInSession = true;
    let waiting: Promise<string> | undefined;
    const why = await runDoorstep(
      {
        ...from,
        ...account,
        keepIn: {
          store,
          onKept: () => {
            registerWaiting(places(), installCopy(places().dataHome), options.state);
            waiting = runWaiting({ ...account, store, unregister: dropWaiting, isBusy: () => isInSession }, signal);
          },
          onDropped: () => store.remove(),
        },
      },
      signal,
    );
    isInSession = false;
    process.stdout.write(`Doorstep ends: ${why}.\n`);
    await updateQuietly(from.serviceUrl, log);
    if (waiting) process.stdout.write(`Doorstep waited for remote visits: ${await waiting}.\n`);
  });
}

async function wait_(options: PlaceOptions): Promise<void> {
  const log = logAt(options.log);
  // Said before a desktop is opened: most accounts have none.
  const store = new StandingStore(options.state);
  const standing = store.read();
  if (!standing) throw new Error('there is no standing consent on this account');
  await updateQuietly(standing.serviceUrl, log);
  await withDesktop(options, log, async (desktop, signal, guard) => {
    const account = ofAccount(options, desktop, guard, log);
    const why = await runWaiting({ ...account, store, unregister: dropWaiting, isBusy: () => false }, signal);
    process.stdout.write(`Doorstep waited for remote visits: ${why}.\n`);
  });
}

function showStanding(options: { state: string; json?: boolean }): void {
  const store = new StandingStore(options.state);
  const standing = store.read();
  if (options.json) {
    const { consent, deskName, serviceUrl, triesLeft } = standing ?? {};
    process.stdout.write(
      `${JSON.stringify(standing ? { ...consent, deskName, serviceUrl, triesLeft, visits: store.visits() } : null)}\n`,
    );
  } else if (!standing) process.stdout.write('Nobody may connect to this computer: there is no standing consent.\n');
  else
    process.stdout.write(
      `${standingLines(standing, store.visits(), languageOf(process.env), Date.now()).join('\n')}\n`,
    );
}

/** One step, with or without the service: whoever waits for visits notices and tells it. */
function endStanding(options: { state: string }): void {
  const store = new StandingStore(options.state);
  const isThere = store.exists;
  store.remove();
  dropWaiting();
  process.stdout.write(
    isThere
      ? 'Ended. Nobody may connect to this computer any longer.\n'
      : 'There was no standing consent on this account.\n',
  );
}

async function standingWindow(options: PlaceOptions): Promise<void> {
  const store = new StandingStore(options.state);
  const standing = store.read();
  if (!standing) {
    showStanding(options);
    return;
  }
  await withDesktop(options, logAt(options.log), async (desktop, signal) => {
    const question = standingQuestion(standing, store.visits(), languageOf(process.env), Date.now());
    const answer = await desktop.ports.person.ask(question, signal);
    if (answer?.what === 'no') endStanding(options);
  });
}

const program = new Command('doorstep')
  .description('Lets a technician help you at this computer, and only as far as you say yes.')
  .version(versionWords);
const withState = (command: Command) =>
  command.option(
    '--state <folder>',
    'where what you decided is kept',
    joinPath(homedir(), '.local', 'state', 'zesty-porch'),
  );
const withPlace = (command: Command) =>
  withState(command)
    .option('--display <display>', 'the X display to share; default: DISPLAY')
    .option('--home <folder>', 'files may be fetched from within this folder only', homedir())
    .option('--downloads <folder>', 'where files that you take are put', joinPath(homedir(), 'Downloads'))
    .option('--cameras <folder>', 'where the devices of cameras are', DEVICES)
    .addOption(
      new Option('--log <level>', 'what to tell on standard error')
        .choices(['error', 'warn', 'info', 'silent'])
        .default('warn'),
    );

const joinCommand = withPlace(program.command('join'))
  .description('join a session, by the link from the page or by the code you were told')
  .option('--link <link>', 'the join link')
  .option('--service <url>', 'the address of the help desk, with --code')
  .option('--code <digits>', 'the one-time code, for example "4127 9035"')
  .option('--second-number <digits>', 'along with the code, when it is asked for')
  .option(
    '--hide <title>',
    'never show windows of the program whose title has these words; may be said again',
    (words: string, all: string[]) => [...all, words],
    [],
  )
  .addHelpText(
    'after',
    '\nExamples:\n  doorstep join --link https://help.marrowick.example/join/…\n  doorstep join --service https://help.marrowick.example --code "4127 9035"\n\nEnds with 0 when the session ended, 1 when it could not begin, 2 when it was called wrongly.',
  )
  .action(join_);
withPlace(program.command('wait'))
  .description('wait for remote visits, as your standing consent allows; begins by itself when you sign in')
  .action(wait_);
const standing = program
  .command('standing')
  .description('your standing consent: who may connect to this computer later, every remote visit, and the end of it')
  .addHelpText(
    'after',
    '\nExamples:\n  doorstep standing show\n  doorstep standing end      in one step, also without the help desk\n',
  );
withState(standing.command('show', { isDefault: true }))
  .description('what is allowed, until when, and every remote visit')
  .option('--json', 'as JSON')
  .action(showStanding);
withState(standing.command('end')).description('end it now, and leave nothing behind').action(endStanding);
withPlace(standing.command('window'))
  .description('the same in a window, with a button that ends it')
  .action(standingWindow);
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
    const file = registerLinks(places(), installCopy(places().dataHome));
    process.stdout.write(`Links of sessions open Doorstep now (${file}). To undo it: doorstep unregister\n`);
  });
program
  .command('unregister')
  .description('let links open nothing any longer; leaves nothing behind')
  .action(() => {
    unregisterLinks(places());
    removeUnused();
    process.stdout.write('Links of sessions open nothing on this account any longer.\n');
  });
program
  .command('update')
  .description('take the newest release, if the publisher of this one signed it')
  .requiredOption('--service <url>', 'the address of the help desk')
  .action(async ({ service }: { service: string }) => {
    const file = ownFile();
    if (!file || !release) throw new Error('only a released Doorstep, one file, can update itself');
    const result = await updateFile(file, release, service.replace(/\/$/, ''));
    if (result.what === 'refused') throw new Error(`nothing was changed: ${result.why}`);
    process.stdout.write(
      result.what === 'updated' ? `Updated to ${result.version}.\n` : `${release.version} is the newest.\n`,
    );
  });
program
  .command('watchdog', { hidden: true })
  .requiredOption('--display <display>')
  .action((options: { display: string }) => runWatchdog(options.display));

program
  .command('rest', { hidden: true })
  .requiredOption('--display <display>')
  .action((options: { display: string }) => runRest(options.display));

addRightsCommands(program);
addReturnCommands(program, withPlace, stay);
addBellCommands(program, withPlace, stay);

// What started this may hold a link or a code: a list of processes shows it no longer than the start takes.
const helpers = ['watchdog', 'rest', 'root-part', 'bell-part', 'return-steps'];
if (!helpers.includes(process.argv[2] ?? '')) process.title = 'doorstep';

/** A download that was opened as it is: its name says which session it is for. */
const named = process.argv.length === 2 ? sessionInName(ownFile() ?? '') : undefined;
const work = named
  ? joinCommand.parseAsync(['--link', `${named.serviceUrl}/join/${named.token}`], { from: 'user' })
  : program.parseAsync();
work.then(
  () => process.exit(0),
  (error: unknown) => {
    const isExpected =
      error instanceof AppError ||
      error instanceof Unreachable ||
      error instanceof DisplayGone ||
      error instanceof StandingUnsafe;
    process.stderr.write(`doorstep: ${String((error as Error).message)}\n`);
    process.exit(isExpected ? 1 : 2);
  },
);
