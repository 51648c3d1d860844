import { languageOf } from '@porch/words';
import { settings } from '@porch/words/settings';
import { settingNames, settingOf, type SettingName, type SettingNow } from '@porch/core';
import type { Command } from 'commander';
import { readFileSync } from 'node:fs';
import { readConfig } from '../config.ts';
import { mustBeTeam, readPolicy } from '../modules/policy/policy-records.ts';
import { SettingEntity } from '../modules/policy/policy-tables.ts';
import { mustBeSetting, setSetting } from '../modules/policy/set-setting.ts';
import { AdminError } from './admin-error.ts';
import { json, printLine, printTable, show, showList, whoAmI, withRecords, type Common } from './shared.ts';

interface ForTeam extends Common {
  readonly team?: string;
}
const VALUE_CHARACTERS = 40;
const sources = { product: 'as it comes', desk: 'the desk', team: 'its team' } as const;

const words = () => settings[languageOf(process.env)];
const textOf = (name: SettingName, value: unknown): string => settingOf(name).kind.toText(value);
const withUnit = (name: SettingName, value: unknown): string =>
  [textOf(name, value) || '(empty)', settingOf(name).unit].filter(Boolean).join(' ');
function inOneLine(text: string): string {
  const [line = '', ...more] = text.split('\n');
  return more.length || line.length > VALUE_CHARACTERS ? `${line.slice(0, VALUE_CHARACTERS - 1)}…` : line;
}
const viewOf = (name: SettingName, { value, from, version }: SettingNow) => {
  const { unit, first, isTeams = false } = settingOf(name);
  const { label } = words().all[name];
  return { name, value, from, version, ...(unit ? { unit } : {}), label, asItComes: first, mayTeamsDiffer: isTeams };
};

export function addSettingCommands(program: Command): void {
  const setting = program
    .command('setting')
    .description('what the desk allows and how long things take; a change counts within seconds, without a restart')
    .addHelpText(
      'after',
      '\nExamples:\n  porch-admin setting list\n  porch-admin setting get code-minutes\n  porch-admin setting set code-minutes 20\n  porch-admin setting set wrap-up-seconds 120 --team "Ship Systems"\n  porch-admin setting set notice --file notice.json\n  porch-admin setting set code-minutes --as-it-comes\n',
    );
  setting
    .command('list', { isDefault: true })
    .description('all of them, with what counts now and who said so')
    .option('--team <team>', 'as they are for a team')
    .addOption(json)
    .action(list);
  setting
    .command('get')
    .description('one of them: what it means, what counts, and everything that it was set to')
    .argument('<name>')
    .option('--team <team>', 'as it is for a team')
    .addOption(json)
    .action(get);
  setting
    .command('set')
    .description('give it another value, or give it back')
    .argument('<name>')
    .argument('[value]')
    .option('--team <team>', 'for a team alone, where that may be')
    .option('--file <file>', 'read the value from a file')
    .option(
      '--as-it-comes',
      'as if it had never been set: what the desk says counts for its team, or the product’s own',
    )
    .option('--seen <version>', 'refuse when it is at another version than this one: somebody was first')
    .addOption(json)
    .action((name: string, said: string | undefined, options: SetOptions) => set(name, said, options));
}

const list = ({ team, ...options }: ForTeam) =>
  withRecords(async (records) => {
    const policy = await readPolicy(records);
    if (team !== undefined) mustBeTeam(team, policy);
    const nowMs = Date.now();
    const all = settingNames.map((name) => viewOf(name, policy.book.now(name, team, nowMs)));
    showList(all, options, () => {
      printTable(
        ['SETTING', 'VALUE', 'SAID BY'],
        all.map(({ name, value, from }) => [name, inOneLine(withUnit(name, value)), sources[from]]),
      );
      for (const unread of policy.unread) printLine(`LOOK  not understood, so not used: ${unread}`);
    });
  });

const get = (said: string, { team, ...options }: ForTeam) =>
  withRecords(async (records) => {
    const name = mustBeSetting(said);
    const policy = await readPolicy(records);
    if (team !== undefined) mustBeTeam(team, policy);
    const rows = await records
      .getRepository(SettingEntity)
      .find({ where: { name }, order: { since: 'ASC', version: 'ASC' } });
    const now = policy.book.now(name, team, Date.now());
    const history = rows.map(({ team: of, version, since, setBy, value }) => ({
      team: of || undefined,
      version,
      atMs: since.getTime(),
      by: setBy,
      value: value ?? undefined,
    }));
    show({ ...viewOf(name, now), help: words().all[name].help, history }, options, () => {
      printLine(`${words().all[name].label}: ${withUnit(name, now.value)}  (${sources[now.from]})`);
      printLine(words().all[name].help);
      printLine(`As it comes: ${withUnit(name, settingOf(name).first)}`);
      for (const { team: of, version, atMs, by, value } of history)
        printLine(
          `${new Date(atMs).toISOString()}  ${of ?? 'the desk'}, version ${version}, ${by}: ${value === undefined ? 'given back' : inOneLine(textOf(name, value))}`,
        );
    });
  });

interface SetOptions extends ForTeam {
  readonly file?: string;
  readonly asItComes?: true;
  readonly seen?: string;
}

async function set(name: string, said: string | undefined, { team, file, asItComes, seen, ...options }: SetOptions) {
  if ([said, file, asItComes].filter((one) => one !== undefined).length !== 1)
    throw new AdminError('say one of: a value, --file, or --as-it-comes');
  if (seen !== undefined && !/^\d{1,9}$/.test(seen)) throw new AdminError(`--seen: “${seen}” is no version`);
  const typed = file === undefined ? said : readFile(file);
  const done = await withRecords((records) =>
    setSetting(records, {
      name,
      team,
      typed,
      by: whoAmI(),
      seen: seen === undefined ? undefined : Number(seen),
      hasDirectory: readConfig(process.env).directory !== undefined,
    }),
  );
  show(done, options, () => {
    const now = inOneLine(withUnit(done.name, done.value));
    if (!done.isChanged) printLine(`${done.name} is ${now} already.`);
    else
      printLine(`${done.name}: ${now} (was ${inOneLine(withUnit(done.name, done.before))}). It counts within seconds.`);
  });
}

function readFile(file: string): string {
  try {
    return readFileSync(file, 'utf8');
  } catch (cause) {
    throw new AdminError(`${file} cannot be read: ${(cause as Error).message}`, { cause });
  }
}
