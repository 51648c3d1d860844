import { RightsKeys } from '../auth/rights-keys.ts';
import { CodeSecrets } from '../auth/tokens.ts';
import { RECORDS_LEVEL, waitingAt } from '@porch/core';
import { Command } from 'commander';
import { z } from 'zod';
import { ConfigError, readConfig } from '../config.ts';
import { Projecting } from '../module/projecting.ts';
import { modules } from '../modules/index.ts';
import { Mending } from '../modules/sessions/mending.ts';
import { isConnectionTrouble } from '../db/connection-trouble.ts';
import { migrateRecords, TablesTooNew } from '../db/migrate.ts';
import { finishUpgrade, readLevel, UpgradeNotReady } from '../db/records-level.ts';
import { sendAgain, stuckParcels } from '../modules/outbox/stuck-parcels.ts';
import { AdminError } from './admin-error.ts';
import { check } from './check.ts';
import { rotateSecret } from './secret.ts';
import { addSettingCommands } from './setting-commands.ts';
import { exitCodes, json, printLine, show, showList, withRecords, type Common } from './shared.ts';
import { addTechnicianCommands } from './technician-commands.ts';
import { addTeamCommands, addTopicCommands } from './topic-and-team-commands.ts';
import { PolicyRefused } from '../modules/policy/policy-refused.ts';

const isUuid = (text: string): boolean => z.uuid().safeParse(text).success;

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});
const program = new Command('porch-admin')
  .description('For whoever runs the service: people, tables, and whether everything is as it should be.')
  .addHelpText(
    'after',
    '\nIt reads the same settings as the service. The first steps on a new machine:\n  porch-admin check\n  porch-admin migrate\n  porch-admin technician add --name "Odalys Brandt" --email odalys.brandt@marrowick.example --team Desk --role lead\n\nExit codes: 0 done, 1 refused or not well, 2 wrong call or settings, 4 the database is not reached.',
  )
  .exitOverride((error) => process.exit(error.exitCode === 0 ? exitCodes.done : exitCodes.wrongCall));

program
  .command('check')
  .description('look at everything the service needs, and say what to do about what is missing')
  .addOption(json)
  .action(async (options: Common) => {
    const findings = await check(readConfig(process.env));
    showList(findings, options, () => {
      for (const { what, isWell, words } of findings)
        printLine(`${isWell ? 'well' : 'LOOK'}  ${what.padEnd(16)}${words}`);
    });
    if (
      findings.some(({ what, isWell }) => !isWell && ['database', 'tables', 'technicians', 'encryption'].includes(what))
    )
      process.exitCode = exitCodes.refused;
  });
program
  .command('migrate')
  .description('bring the tables up to this release; the service does the same when it starts')
  .addOption(json)
  .action((options: Common) =>
    withRecords(async (records) => {
      const done = await migrateRecords(records);
      show(done, options, () => printLine(done.length ? `Done: ${done.join(', ')}` : 'Nothing was due.'));
    }),
  );

const upgrade = program
  .command('upgrade')
  .description('how far these records follow this release, and the step after which no older one can go on with them')
  .addHelpText(
    'after',
    '\nExamples:\n  porch-admin upgrade show\n  porch-admin upgrade finish     once every service and every program that is needed is of this release\n',
  );
upgrade
  .command('show', { isDefault: true })
  .description('what this release does not write yet')
  .addOption(json)
  .action((options: Common) =>
    withRecords(async (records) => {
      const level = await readLevel(records);
      const waiting = waitingAt(level);
      show({ level, known: RECORDS_LEVEL, waiting }, options, () => {
        printLine(`The records are at level ${level}; this release knows ${RECORDS_LEVEL}.`);
        printLine(
          waiting.length
            ? `Not written yet, so that an older release can still go on: ${waiting.join(', ')}. Then: porch-admin upgrade finish`
            : 'Nothing waits.',
        );
      });
    }),
  );
upgrade
  .command('finish')
  .description('write everything that this release knows; going back needs what was kept before')
  .addOption(json)
  .action((options: Common) =>
    withRecords(async (records) => {
      const { from, to } = await finishUpgrade(records);
      show({ from, to }, options, () =>
        printLine(from === to ? 'It was finished already.' : `Finished: the records went from level ${from} to ${to}.`),
      );
    }),
  );

program
  .command('rights-key')
  .description(
    'the key that is installed on computers, so that this desk may give leave for administrator rights there',
  )
  .addOption(json)
  .action((options: Common) => {
    const { newest: deskKey } = new RightsKeys(new CodeSecrets(...readConfig(process.env).secrets).seeds('rights'));
    show({ deskKey }, options, () => printLine(deskKey));
  });

program
  .command('secret')
  .description('the secret that codes and links are kept with')
  .command('rotate')
  .description('a new one; what was made with the last one goes on working, with the one before that no longer')
  .addOption(json)
  .action((options: Common) => {
    rotateSecret(readConfig(process.env));
    show({ rotated: true }, options, () =>
      printLine('There is a new secret. Start the service anew, so that it is used.'),
    );
  });

program
  .command('rebuild')
  .description('make what is kept beside sessions anew from their ledgers: lists, search, who was in them')
  .option('--session <id>', 'of one session alone')
  .addOption(json)
  .addHelpText(
    'after',
    '\nThe service can go on meanwhile. Examples:\n  porch-admin rebuild\n  porch-admin rebuild --session 0b8e5a52-5d0e-4f0b-9a51-6a6f4f0c3a10\n',
  )
  .action(({ session, ...options }: Common & { session?: string }) =>
    withRecords(async (records) => {
      if (session !== undefined && !isUuid(session)) throw new AdminError(`“${session}” is no session's id`);
      const projecting = new Projecting({
        projections: modules.flatMap(({ projections }) => projections ?? []),
        onFault: (projection, id, error) =>
          process.stderr.write(`${id}: ${projection} cannot be made: ${String((error as Error).message)}\n`),
      });
      const { done, faulty } = await new Mending(records, projecting).rebuild(session);
      if (session !== undefined && !done) throw new AdminError(`there is no session ${session}`);
      show({ done, faulty }, options, () =>
        printLine(faulty.length ? `${done} made anew, ${faulty.length} of them not whole.` : `${done} made anew.`),
      );
      if (faulty.length) process.exitCode = exitCodes.refused;
    }),
  );

const parcel = program
  .command('parcel')
  .description('what the desk sends to others and has not arrived')
  .addHelpText(
    'after',
    '\nExamples:\n  porch-admin parcel list\n  porch-admin parcel again 0b8e5a52-5d0e-4f0b-9a51-6a6f4f0c3a10\n',
  );
parcel
  .command('list', { isDefault: true })
  .description('each with why it has not, given up ones first')
  .addOption(json)
  .action((options: Common) =>
    withRecords(async (records) => {
      const parcels = await stuckParcels(records);
      showList(parcels, options, () => {
        if (!parcels.length) printLine('Everything that was tried has arrived.');
        for (const p of parcels)
          printLine(
            `${p.id}  ${p.kind.padEnd(10)} ${p.givenUpAtMs ? 'given up' : 'tried again'} after ${p.attempts}: ${p.why}`,
          );
      });
    }),
  );
parcel
  .command('again')
  .description('try one again at once, also one that was given up')
  .argument('<id>')
  .addOption(json)
  .action((id: string, options: Common) =>
    withRecords(async (records) => {
      if (!isUuid(id) || !(await sendAgain(records, id)))
        throw new AdminError(`no parcel ${id} waits; porch-admin parcel list shows those that do`);
      show({ id, isTriedAgain: true }, options, () => printLine('It is tried again now.'));
    }),
  );

addTechnicianCommands(program);
addTeamCommands(program);
addTopicCommands(program);
addSettingCommands(program);

program.parseAsync().catch((error: unknown) => {
  const isKnown =
    error instanceof AdminError ||
    error instanceof PolicyRefused ||
    error instanceof ConfigError ||
    error instanceof TablesTooNew ||
    error instanceof UpgradeNotReady;
  const isAway = isConnectionTrouble(error);
  const message = isKnown
    ? error.message
    : isAway
      ? 'the database cannot be reached; porch-admin check says more'
      : String((error as Error).stack);
  const exitCode =
    error instanceof ConfigError ? exitCodes.wrongCall : isAway ? exitCodes.unreachable : exitCodes.refused;
  const asJson = process.argv.includes('--json');
  process.stderr.write(asJson ? `${JSON.stringify({ error: { message, exitCode } })}\n` : `porch-admin: ${message}\n`);
  process.exit(exitCode);
});
