import { stepsOf } from '@porch/core';
import {
  MAX_PACK_FILES,
  type ImportedAction,
  type RunbookActionView,
  type RunbookActionWhole,
  type RunbookScope,
} from '@porch/wire';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { CliError, exitCodes } from '../exit-codes.ts';
import { printLine, printList, type Column } from '../print.ts';
import { desk, results, wrong } from '../words.ts';
import { rest, show, type CommonOptions } from './common.ts';

const words = desk.runbook;
const columns: Column<RunbookActionView>[] = [
  ['NAME', ({ name }) => name],
  ['STATE', ({ state }) => words.states[state]],
  ['KIND', ({ kind }) => words.kinds[kind]],
  ['TOPIC', ({ topic }) => topic ?? ''],
  ['TITLE', ({ title }) => title],
];

export async function runbook(
  asked: string[],
  options: CommonOptions & { topic?: string; state?: string },
): Promise<void> {
  const page = await rest().runbookActions({
    limit: 200,
    ...(asked.length ? { words: asked.join(' ') } : {}),
    ...(options.topic ? { topic: options.topic } : {}),
    ...(options.state ? { state: options.state as RunbookActionView['state'] } : {}),
  });
  printList(page, options, columns, results.noActions);
}

/** The version of an action that is meant: one's own before the team's before the desk's. */
export async function findAction(
  name: string,
  ...states: readonly RunbookActionView['state'][]
): Promise<RunbookActionWhole> {
  const { items } = await rest().runbookActions({ name, limit: 200 });
  const wanted = states.length ? states : (['approved', 'reviewed', 'draft'] as const);
  for (const state of wanted)
    for (const scope of ['personal', 'team', 'desk'] as const) {
      const found = items.find((one) => one.state === state && one.scope === scope);
      if (found) return rest().runbookAction(found.id);
    }
  throw new CliError(wrong.noAction({ name }), exitCodes.noSession);
}

export async function action(
  name: string,
  options: CommonOptions & { review?: true; approve?: true; withdraw?: true },
): Promise<void> {
  const wanted = options.review ? (['draft'] as const) : options.approve ? (['reviewed'] as const) : [];
  const found = await findAction(name, ...wanted);
  const { id, title } = found;
  if (options.review) {
    const reviewed = await rest().reviewRunbookAction(id);
    show(reviewed, options, () => printLine(results.actionReviewed({ title })));
  } else if (options.approve) {
    const approved = await rest().approveRunbookAction(id);
    show(approved, options, () => printLine(results.actionApproved({ title })));
  } else if (options.withdraw) {
    await rest().withdrawRunbookAction(id);
    show({ withdrawn: id }, options, () => printLine(results.actionWithdrawn({ title })));
  } else show(found, options, () => tell(found));
}

function tell({
  title,
  state,
  action: { about, kind, parameters, isRisky, rights, body },
  hash,
}: RunbookActionWhole): void {
  printLine(title);
  printLine([words.states[state], words.kinds[kind], ...(isRisky ? [words.risky] : [])].join(', '));
  if (rights === 'administrator') printLine(words.needsAdministrator);
  if (about) printLine(about);
  for (const { name, label, kind: of, choices = [], first } of parameters)
    printLine(
      `  ${name}  ${label} (${[words.valueKinds[of], ...choices].join(', ')}${first ? `; ${words.valueFirst}: ${first}` : ''})`,
    );
  if (kind === 'instruction') stepsOf(body).forEach((text, at) => printLine(`  ${at + 1}. ${text}`));
  else printLine(`\n${body}`);
  printLine(`${words.hash}: ${hash}`);
}

const resultOf = ({ result, why }: ImportedAction): string => {
  if (!why) return result;
  return why in words.faults
    ? words.faults[why as keyof typeof words.faults]
    : words.whyRefused[why as keyof typeof words.whyRefused];
};

export async function packIn(folder: string, options: CommonOptions & { whose: RunbookScope }): Promise<void> {
  let names: string[];
  try {
    names = readdirSync(folder).filter((name) => /\.action$|^pack\.(sums|sig|pem)$/.test(name));
  } catch (cause) {
    throw new CliError(wrong.noFile({ file: folder }), exitCodes.wrongCall, { cause });
  }
  if (!names.length || names.length > MAX_PACK_FILES)
    throw new CliError(wrong.noPack({ folder, most: String(MAX_PACK_FILES) }), exitCodes.wrongCall);
  const files = names.map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }));
  const { signer, items } = await rest().importPack(files, options.whose);
  const { signers } = words;
  if (!options.json && !options.csv)
    printLine(signer.who === 'somebody' ? signers.somebody({ key: signer.key ?? '' }) : signers[signer.who]);
  const table: Column<ImportedAction>[] = [
    ['FILE', ({ file }) => file],
    ['RESULT', resultOf],
  ];
  if (options.json) show({ signer, items }, options, () => undefined);
  else printList({ items }, options, table, results.noActions);
  if (items.some(({ result }) => result === 'refused')) process.exitCode = exitCodes.refused;
}

export async function packOut(folder: string, options: CommonOptions): Promise<void> {
  const files = await rest().exportPack();
  mkdirSync(folder, { recursive: true });
  // A service may say anything: only the last part of a name is taken for one.
  for (const { name, text } of files) writeFileSync(join(folder, basename(name)), text);
  const names = files.map(({ name }) => name);
  const count = names.filter((name) => name.endsWith('.action')).length;
  show({ files: names }, options, () => printLine(results.packSaved({ count, folder })));
}
