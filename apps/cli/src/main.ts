import { writeSync } from 'node:fs';
import { Argument, Command, Option } from 'commander';
import { addConsentVerbs } from './verbs/consent-cli.ts';
import { addAskedVerbs } from './verbs/asked-cli.ts';
import { addLibraryVerbs } from './verbs/library-cli.ts';
import { cliAbilities } from './abilities/index.ts';

/*
 * Only the names of the commands are read at the start; what they do is loaded when one is called, so that `--help`
 * and a mistyped word answer at once.
 */
const verbs = () => import('./verbs/index.ts');
const devices = () => import('./verbs/devices.ts');

// Whoever reads on the other side of a pipe may have had enough: that is no failure.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

const program = new Command('porch')
  .description('Attended support sessions from the terminal: start, ask, see, work, talk, hand over, log.')
  .version('0.1.0')
  .showHelpAfterError('(porch --help shows every command)')
  .addHelpText(
    'after',
    `
A first session:
  porch sign-in --service http://127.0.0.1:8420 --email pim.aldersey@marrowick.example
  porch start MF-201            prints a code to read aloud, and a link
  porch watch                   tells what happens, as it happens
  porch ask see                 waits for the customer's answer
  porch picture -o screen.png
  porch ask work && porch click 400 300 && porch type "hello"
  porch try && porch end && porch outcome resolved

Exit codes: 0 done, 1 refused, 2 wrong call, 3 sign in first, 4 service not reached, 5 no such session, 6 ledger broken.`,
  );

const isJson = process.argv.includes('--json');
let complaint = '';
// What is wrong with a call is JSON where JSON was asked for, as every other error.
program.configureOutput({ writeErr: (text) => void (isJson ? (complaint += text) : process.stderr.write(text)) });
program.exitOverride((error) => {
  if (error.exitCode === 0) process.exit(0);
  const message = (complaint.split('\n')[0] ?? '').replace(/^error: /, '');
  // At once: the program ends when this returns.
  if (isJson) writeSync(2, `${JSON.stringify({ error: { code: 'WRONG_CALL', message, exitCode: 2 } })}\n`);
  process.exit(2);
});
program
  .option('--profile <name>', 'which sign-in is meant, where there are several; before the command')
  .hook('preAction', () => {
    const { profile } = program.opts<{ profile?: string }>();
    // Whatever is started for it is of the same.
    if (profile !== undefined) process.env['PORCH_PROFILE'] = profile;
  });

const json = new Option('--json', 'print the value as JSON');
const session = new Option('-s, --session <id>', 'which session, by the start of its id; default: the one opened last');

const language = () => new Option('--language <language>').choices(['en', 'nb', 'de']).default('en');
const make = (name: string, description: string) => program.command(name).description(description).addOption(json);
const csv = new Option('--csv', 'print it as CSV').conflicts('json');
const list = (name: string, description: string) => make(name, description).addOption(csv);
const inSession = (name: string, description: string) => make(name, description).addOption(session);

make('sign-in', 'sign in; the token is kept in a file that only you can read')
  .requiredOption('--service <url>', 'the address of the service')
  .requiredOption('--email <address>', 'your address')
  .option('--password-stdin', 'read the password from standard input')
  .action(async (options) => (await verbs()).signIn(options));
make('sign-out', 'sign out and forget the token').action(async () => (await verbs()).signOut());
list('sign-ins', 'where you are signed in, since when; ended one by one, or all others')
  .option('--end <id>', 'end this one, by the start of its id')
  .option('--end-others', 'end all but this one')
  .addHelpText('after', '\nExamples:\n  porch sign-ins\n  porch sign-ins --end-others')
  .action(async (options) => (await verbs()).signIns(options));
make('waiting', 'who waits for help, and which colleagues ask you to take over').action(async (options) =>
  (await verbs()).waiting(options),
);
list('tickets', 'your tickets, or those that fit some words')
  .argument('[words...]')
  .action(async (words, options) => (await verbs()).tickets(words, options));
list('sessions', 'sessions that you may read, newest first: all, or those that fit')
  .argument('[words...]', 'beginnings of what was said or written, of names, of a ticket')
  .option(
    '--outcome <outcome>',
    'resolved, worked-around, escalated, follow-up, not-resolved, customer-left, suspected-fraud',
  )
  .option('--phase <phase>', 'prepared, joining, live, ended, logged')
  .option('--ticket <ref>')
  .option('--technician <id>', 'who led it or was in it')
  .option('--permission <name>', 'what was allowed in it')
  .option('--files', 'files arrived in it')
  .option('--from <day>', 'prepared on that day or later, as 2026-11-28')
  .option('--to <day>', 'prepared on that day or before')
  .option('--limit <n>', 'how many, 200 at most', '50')
  .option('--after <place>', 'the next page, from where the one before says it ended')
  .addHelpText(
    'after',
    '\nExamples:\n  porch sessions printer --outcome escalated\n  porch sessions --permission fetch-files --from 2026-11-01 --json',
  )
  .action(async (words, options) => (await verbs()).sessions(words, options));
make('caller', 'whom a telephone number stands for, and what the desk has of them')
  .argument('<number...>', 'with its country or without')
  .addHelpText('after', '\nExample:\n  porch caller 555-0165')
  .action(async (number, options) => (await verbs()).caller(number, options));
addLibraryVerbs({ make, list, session, language });
make('here', 'say that you are here for offers, without a console')
  .option('--minutes <n>', 'for how long', '60')
  .action(async (options) => (await verbs()).setHere(false, options));
make('away', 'say that you are away; nobody is offered to you').action(async (options) =>
  (await verbs()).setHere(true, options),
);
make('not-now', 'decline the person who is offered to you; they go on to the next')
  .argument('<entry>', 'by the start of its id')
  .action(async (given, options) => (await verbs()).notNow(given, options));
list('bookings', 'your bookings of today and the days to come').action(async (options) =>
  (await verbs()).bookings(options),
);
make('book', 'book a session: the customer gets a mail with a calendar entry')
  .requiredOption('--customer <name>', 'their name')
  .requiredOption('--mail <address>', 'their email address')
  .requiredOption('--date <date>', 'for example 2027-03-29')
  .requiredOption('--time <time>', 'for example 09:30, as their clock shows it')
  .option('--zone <zone>', "their time zone, for example Europe/Oslo; default: the desk's")
  .option('--minutes <n>', 'how long', '30')
  .option('--purpose <words>', 'what it is about', 'Help with a computer')
  .option('--ticket <ticket>', 'for example MF-203')
  .option('--telephone <number>', 'for a reminder by text message')
  .option('--for <colleague>', 'whose session it is to be; default: yours')
  .addOption(language())
  .addHelpText(
    'after',
    '\nExample:\n  porch book --customer "Samir Oduya" --mail samir.oduya@marrowick.example --date 2027-03-29 --time 09:30 --ticket MF-203',
  )
  .action(async (options) => (await verbs()).book(options));
make('move-booking', 'another time for a booking')
  .argument('<booking>', 'by the start of its id')
  .requiredOption('--date <date>')
  .requiredOption('--time <time>')
  .option('--minutes <n>', 'how long', '30')
  .action(async (given, options) => (await verbs()).moveBooking(given, options));
make('cancel-booking', 'cancel a booking, with notice')
  .argument('<booking>', 'by the start of its id')
  .option('--remark <words>', 'why', '')
  .action(async (given, options) => (await verbs()).cancelBooking(given, options));
make('start', 'start a session: from a ticket, from who waits, or with a code alone')
  .argument('[ticket]', 'for example MF-201')
  .option('--entry <id>', 'a queue entry, by the start of its id')
  .action(async (ticket, options) => (await verbs()).start(ticket, options));
const wait = () => new Option('--wait <seconds>', 'how long to wait for an answer').default('120');
const passphraseStdin = () => new Option('--passphrase-stdin', 'read the passphrase from standard input');
list('devices', 'devices that customers let the desk come back to, or those that fit some words')
  .argument('[words...]')
  .action(async (words, options) => (await devices()).devices(words, options));
make('visit', 'knock at a device, with the passphrase that was chosen there')
  .argument('<device>', 'its name, or the start of its id')
  .option('--ticket <ticket>', 'for example MF-201')
  .option('--ask-there', 'without the passphrase: ask whoever sits there')
  .addOption(passphraseStdin())
  .addOption(wait())
  .addHelpText(
    'after',
    '\nExamples:\n  porch visit tern-quay-04 --ticket MF-201\n  porch visit tern-quay-04 --ask-there',
  )
  .action(async (name, options) => (await devices()).visit(name, options));
make('give-up', 'give a device up for good; nothing is left there')
  .argument('<device>')
  .action(async (name, options) => (await devices()).giveUp(name, options));
make('open', 'open a session of yours here again')
  .argument('[session]')
  .action(async (given, options) => (await verbs()).openSession(given, options));
inSession('code', "the session's one-time code")
  .option('--new', 'make a new one; the old one is withdrawn')
  .option('--withdraw', 'withdraw it')
  .action(async (options) => (await verbs()).code(options));
inSession('invite', 'ask the customer in: link, ticket, mail, text, qr, calendar, file')
  .addArgument(new Argument('<way>').choices(['link', 'ticket', 'mail', 'text', 'qr', 'calendar', 'file']))
  .argument('[address]', "for mail and text; a ticket's requester has an email address already")
  .addOption(language())
  .option('--minutes <n>', 'how long it works')
  .option('--uses <n>', 'how often it works; default: until the session closes')
  .option('--remark <words>', 'a line of your own', '')
  .option('--preview', 'print what would be sent, and send nothing')
  .option('-o, --output <file>', 'where to put the picture, the calendar entry or the join file')
  .addHelpText(
    'after',
    '\nExamples:\n  porch invite mail\n  porch invite text 555-0161 --language nb --uses 1\n  porch invite qr              draws it in the terminal\n  porch invite calendar -o help.ics',
  )
  .action(async (way, address, options) => (await verbs()).invite(way, address, options));
list('invitations', 'which ways in there are, and how far each has come')
  .addOption(session)
  .action(async (options) => (await verbs()).invitations(options));
inSession('uninvite', 'withdraw an invitation')
  .argument('<invitation>', 'by the start of its id')
  .action(async (given, options) => (await verbs()).uninvite(given, options));
inSession('status', 'where the customer is, what is allowed, which files move').action(async (options) =>
  (await verbs()).status(options),
);
inSession('aim', 'say what the session is for: what their page leads with')
  .addArgument(new Argument('<what>').choices(['look', 'work']))
  .action(async (what, options) => (await verbs()).aim(what, options));
addConsentVerbs({ inSession });
for (const ability of cliAbilities) ability.addVerbs({ inSession });
inSession('say', 'write to the customer')
  .argument('<words...>')
  .action(async (words, options) => (await verbs()).say(words, options));
inSession('aside', 'write to colleagues only')
  .argument('<words...>')
  .action(async (words, options) => (await verbs()).aside(words, options));
inSession('watch', 'tell the ledger as it grows, until the outcome is logged').action(async (options) =>
  (await verbs()).watch(options),
);
inSession('hand-over', 'ask a colleague to take over')
  .argument('<colleague>')
  .option('--remark <words>', 'why, for the brief', '')
  .action(async (person, options) => (await verbs()).handOver(person, options));
addAskedVerbs({ make, list });
inSession('change-over', 'whether another Doorstep may take the place of the one you see')
  .addArgument(new Argument('<answer>').choices(['yes', 'no']))
  .action(async (answer, options) => (await verbs()).changeOver(answer === 'yes', options));
inSession('try', 'ask the customer to try it; control is given back first').action(async (options) =>
  (await verbs()).askToTry(options),
);
inSession('end', 'end the session').action(async (options) => (await verbs()).end(options));
inSession('outcome', 'log how it ended; the note is drafted from the ledger unless you give one')
  .addArgument(
    new Argument('<outcome>').choices([
      'resolved',
      'worked-around',
      'escalated',
      'follow-up',
      'not-resolved',
      'customer-left',
      'suspected-fraud',
    ]),
  )
  .option('--note <text>', 'the note')
  .option('--minutes <n>', 'time spent')
  .action(async (name, options) => (await verbs()).outcome(name, options));
inSession('leave', 'leave without ending').action(async (options) => (await verbs()).leave(options));
inSession('ledger', "the session's ledger")
  .argument('[session]')
  .action(async (given, options) => (await verbs()).ledger(given, options));
inSession('verify', 'verify a ledger against heads that were kept')
  .argument('[session]')
  .option('--head <seq:hash...>', 'a head that you trust: from a receipt or a ticket')
  .option('--file <file>', 'a ledger saved with: porch ledger --json')
  .action(async (given, options) => (await verbs()).verify(given, options));
make('erase', "erase a session's personal parts (leads)")
  .argument('<session>')
  .requiredOption('--rule <words>', 'by which rule')
  .action(async (given, options) => (await verbs()).erase(given, options));
list('profiles', 'who is signed in where, in which profile').action(async (options) =>
  (await verbs()).profiles(options),
);
list('doctor', 'whether this terminal can do its work, and what to do about what it cannot').action(async (options) =>
  (await import('./verbs/doctor.ts')).doctor(options),
);
program
  .command('completion')
  .description('a script for your shell that completes commands, options and what they take')
  .addArgument(new Argument('<shell>').choices(['bash', 'zsh', 'fish']))
  .addHelpText(
    'after',
    '\nExamples:\n  porch completion bash > ~/.local/share/bash-completion/completions/porch\n  porch completion zsh > ~/.zfunc/_porch\n  porch completion fish > ~/.config/fish/completions/porch.fish',
  )
  .action(async (shell: 'bash' | 'zsh' | 'fish') => {
    process.stdout.write((await import('./completion.ts')).completionScript(shell));
  });
program
  .command('manual')
  .description('the manual page')
  .addHelpText('after', '\nExamples:\n  porch manual | man -l -\n  porch manual > ~/.local/share/man/man1/porch.1')
  .action(async () => {
    process.stdout.write((await import('./manual.ts')).manualOf(program));
  });
program
  .command('complete', { hidden: true })
  .argument('[words...]')
  .action(async (words: string[]) => {
    const found = (await import('./completion.ts')).completionsFor(program, words);
    process.stdout.write(found.map((word) => `${word}\n`).join(''));
  });
program
  .command('keep', { hidden: true })
  .argument('<session>')
  .action(async (id: string) => (await import('./keeper/keeper.ts')).runKeeper(id));

program.parseAsync().catch(async (error: unknown) => {
  const { code, message, exitCode } = (await verbs()).explain(error);
  const words = isJson ? JSON.stringify({ error: { code, message, exitCode } }) : `porch: ${message}`;
  process.stderr.write(`${words}\n`, () => process.exit(exitCode));
});
