import { rungQuestion } from '@porch/host';
import { languageOf } from '@porch/words';
import type { Command } from 'commander';
import type { DoorstepOptions } from '../doorstep-options.ts';
import { invitationOf } from '../invitation-of.ts';
import { hearLines, writeLine } from '../json-lines.ts';
import { installRootService, needRoot, removeRootService } from '../system/root-service.ts';
import { BELL, bellHere, ToAnswering, type FromAnswering, type Hung } from './bell.ts';
import { runBellPart } from './bell-part.ts';

const SAY_MS = 5_000;
const print = (text: string) => process.stdout.write(`${text}\n`);
type Stay = Pick<DoorstepOptions, 'serviceUrl' | 'invitation' | 'rung' | 'isSignInScreen'>;
interface Answering {
  readonly signInScreen?: true;
}

function show({ json }: { json?: boolean }): void {
  const hung = bellHere();
  if (json) print(JSON.stringify(hung ?? null));
  else if (!hung) print('There is no bell at the desktops of this computer.');
  else
    print(
      `Whoever is signed in here can be asked into sessions of ${hung.service}, at their own desktop.\n` +
        (hung.hasSignInScreen
          ? 'The sign-in screen may be seen and worked, too, with a yes at this computer.'
          : 'The sign-in screen is never seen.'),
    );
}

async function install({ service, signInScreen }: { service: string; signInScreen?: true }): Promise<void> {
  needRoot();
  if (!URL.canParse(service) || !/^https?:$/.test(new URL(service).protocol))
    throw new Error('--service is the address of the help desk, from http to its end');
  const hung: Hung = { service: service.replace(/\/$/, ''), hasSignInScreen: signInScreen === true };
  await installRootService(BELL, hung);
  show({});
  print('To undo it: doorstep bell remove');
}

/** Whoever rang at this desktop, until they are answered: the pipe from them closes once nobody wants it any longer. */
function whoRang(): Promise<{ readonly link: string; readonly signal: AbortSignal }> {
  const gone = new AbortController();
  return new Promise((resolve, reject) => {
    const late = setTimeout(() => reject(new Error('nobody rang')), SAY_MS);
    hearLines(
      process.stdin,
      ToAnswering,
      ({ link }) => {
        clearTimeout(late);
        resolve({ link, signal: gone.signal });
      },
      () => {
        gone.abort();
        reject(new Error('nobody rang'));
      },
    );
  });
}

/** Asks whoever sits at this desktop before anything of theirs is told to anybody. */
async function answer<P extends Answering>(options: P, stay: (options: P, from: Stay) => Promise<void>): Promise<void> {
  const { link, signal } = await whoRang();
  // Whoever rang may be gone before this program is.
  process.stdout.on('error', () => undefined);
  const says = (said: FromAnswering['says']) => writeLine(process.stdout, { says: said } satisfies FromAnswering);
  await stay(options, {
    ...invitationOf({ link }),
    isSignInScreen: options.signInScreen === true,
    rung: async (door, { ports }, ends) => {
      const question = rungQuestion(door, languageOf(process.env));
      const answered = await ports.person.ask(question, AbortSignal.any([signal, ends]));
      if (!answered) return false;
      const isYes = answered.what === 'yes';
      says(isYes ? 'came' : 'no');
      return isYes;
    },
  });
}

/** What the owner of a computer does beforehand, and what a ring starts. */
export function addBellCommands<P extends object>(
  program: Command,
  withPlace: (command: Command) => Command,
  stay: (options: P, from: Stay) => Promise<void>,
): void {
  const bell = program
    .command('bell')
    .description('for whoever looks after a computer: asking people into a session, at their own desktops')
    .addHelpText(
      'after',
      '\nExamples:\n  sudo doorstep bell install --service https://help.marrowick.example\n  doorstep bell show --json\n  sudo doorstep bell remove\n\nEnds with 0 when it is done, 2 when it could not be.',
    );
  bell
    .command('install')
    .description('install it: who is signed in here can be asked into sessions of one help desk, and says yes or no')
    .requiredOption('--service <url>', 'the address of the help desk')
    .option('--sign-in-screen', 'let the sign-in screen be seen and worked, too, with a yes of who stands before it')
    .action(install);
  bell
    .command('remove')
    .description('take it away, and leave nothing behind')
    .action(async () => {
      needRoot();
      print((await removeRootService(BELL, ['/run/zesty-porch-bell'])) ? 'Removed.' : 'It was not installed.');
    });
  bell
    .command('show', { isDefault: true })
    .description('whether there is one, and for which help desk')
    .option('--json', 'as JSON')
    .action(show);
  program
    .command('bell-part', { hidden: true })
    .argument('<connection>')
    .action(async (connection: string) => {
      await runBellPart(connection);
    });
  withPlace(program.command('answer-bell', { hidden: true }))
    .option('--sign-in-screen')
    .action((options: P & Answering) => answer(options, stay));
}
