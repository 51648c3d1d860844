import type { LookedAt, RunNow } from '@porch/client';
import { COVERED, valueFaults, valuesFor, type RunbookAction, type RunbookValues } from '@porch/core';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { needLeave } from '../need-leave.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { readHidden, show, type CommonOptions } from '../../verbs/common.ts';
import { findAction } from '../../verbs/runbook.ts';
import { desk, results, wrong } from '../../words.ts';

export interface RunOptions extends CommonOptions {
  give: readonly string[];
  onlyLook?: true;
  reason?: string;
  secretStdin?: true;
}
const words = desk.runbook;

/** `NAME=VALUE`, as often as wanted. */
function givenIn(pairs: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    pairs.map((pair) => {
      const at = pair.indexOf('=');
      if (at < 1) throw new CliError(wrong.noValue({ text: pair }), exitCodes.wrongCall);
      return [pair.slice(0, at), pair.slice(at + 1)];
    }),
  );
}
/** What is secret is typed, and stands in no list of processes and no history of a shell. */
async function valuesOf(action: RunbookAction, options: RunOptions): Promise<Record<string, string>> {
  const values = { ...givenIn(options.give) };
  for (const { name, kind, label } of action.parameters) {
    if (kind !== 'secret') continue;
    if (name in values) throw new CliError(wrong.secretInSight({ name }), exitCodes.wrongCall);
    values[name] = await readHidden(`${label}:`, options.secretStdin === true, wrong.useSecretStdin);
  }
  const [fault] = Object.entries(valueFaults(action, values));
  if (fault) throw new CliError(`${fault[0]}: ${words.valueFaults[fault[1]]}`, exitCodes.wrongCall);
  return { ...valuesFor(action, values) };
}

function tellLooked(looked: LookedAt, { body, parameters }: RunbookAction, values: RunbookValues): void {
  const { command, place, isReplacing, isSaved, mayGoOn } = looked;
  if (command.length) printLine(words.command({ command: command.join(' ') }));
  printLine(command.length ? words.at({ place }) : words.put({ place }));
  for (const { name, label, kind } of parameters)
    if (values[name]) printLine(`${label}: ${kind === 'secret' ? COVERED : (values[name] ?? '')}`);
  printLine(`\n${body}`);
  if (isReplacing) printLine(words.replaces);
  printLine(isSaved ? words.saved : words.notSaved);
  if (command.length) printLine(mayGoOn ? words.mayGoOn : words.allEnds);
}

export async function runAction(name: string, options: RunOptions): Promise<void> {
  const { id, action } = await findAction(name, 'approved');
  if (action.kind === 'instruction') throw new CliError(wrong.isInstruction({ name }), exitCodes.wrongCall);
  const values = await valuesOf(action, options);
  const looked = (await callKeeper(options.session, {
    ...{ call: 'lookAtAction', actionId: id, title: action.title, values },
  })) as LookedAt;
  if (options.onlyLook) {
    await callKeeper(options.session, { call: 'dropAction', runId: looked.runId });
    show({ ...looked, body: action.body }, options, () => tellLooked(looked, action, values));
    return;
  }
  if (looked.isCareful)
    await needLeave(
      { call: 'askLeaveToRun', runId: looked.runId, ...(options.reason ? { reason: options.reason } : {}) },
      options,
    );
  let text = '';
  const ended = (await callKeeper(options.session, { call: 'runAction', runId: looked.runId }, (part) => {
    text += String(part);
    if (!options.json) process.stdout.write(String(part));
  })) as NonNullable<RunNow['ended']> & { isCut: boolean };
  if (!options.json && text && !text.endsWith('\n')) printLine('');
  const said =
    ended.outcome === 'failed' && ended.code !== undefined
      ? words.ended.code({ code: String(ended.code) })
      : words.ended[ended.outcome];
  if (options.json) show({ ...looked, ...ended, text }, options, () => undefined);
  if (ended.mayGoOn && !options.json) printLine(words.wentOn);
  if (ended.outcome !== 'done') throw new CliError(said, exitCodes.refused);
  if (!options.json) printLine(said);
}

export async function stopAction(options: CommonOptions): Promise<void> {
  const { stopped } = (await callKeeper(options.session, { call: 'stopAction' })) as { stopped: number };
  show({ stopped }, options, () => printLine(stopped ? results.actionsStopped({ count: stopped }) : results.noneRuns));
}

export async function tickStep(
  name: string,
  number: string,
  options: CommonOptions & { notAfterAll?: true },
): Promise<void> {
  if (!/^[1-9]\d{0,2}$/.test(number)) throw new CliError(wrong.noWholeNumber({ what: 'STEP' }), exitCodes.wrongCall);
  const { id } = await findAction(name, 'approved');
  const told = { call: 'tickStep', actionId: id, step: Number(number) - 1, isDone: !options.notAfterAll } as const;
  const done = (await callKeeper(options.session, told)) as { ticked: number[]; steps: number };
  show(done, options, () => printLine(words.stepsDone({ done: String(done.ticked.length), all: String(done.steps) })));
}
