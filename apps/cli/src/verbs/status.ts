import { permissionLabel, purposeInWords, type Permission, type WhyNot } from '@porch/core';
import { cliAbilities } from '../abilities/index.ts';
import { callKeeper } from '../keeper/call-keeper.ts';
import { clock, printLine, printTable } from '../print.ts';
import { book, desk, named, results } from '../words.ts';
import { type CommonOptions, frontDoor, show } from './common.ts';

interface Status extends Record<string, unknown> {
  phase: string;
  line: string;
  step: string;
  purpose?: string;
  customerName?: string;
  isDoorstepThere: boolean;
  isBrowserThere: boolean;
  permissions: { permission: Permission; standing: string; whyNot?: WhyNot }[];
}

export const standingInWords = (standing: string): string =>
  standing === 'waiting' ? results.waiting : named(desk.consent, standing);

/** Where the customer is, and what to say to them. */
function stepSentence(step: string): string {
  const { steps } = desk.waitingRoom;
  if (step === '') return results.step({ where: steps.nobody.where, say: steps.nobody.say({ host: frontDoor() }) });
  if (!Object.hasOwn(steps, step) || step === 'nobody') return step;
  return results.step(steps[step as Exclude<keyof typeof steps, 'nobody'>]);
}

export async function status(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'status' })) as Status;
  show(value, options, () => {
    printLine(
      results.status({
        name: value.customerName ?? results.nobodyYet,
        purpose: purposeInWords(value.purpose ?? '', book),
        phase: named(desk.common.phases, value.phase),
        line: named(results.lines, value.line),
      }),
    );
    printLine(stepSentence(value.step));
    if (value.isBrowserThere) printLine(results.fromBrowser);
    printTable(
      ['PERMISSION', 'STATE'],
      value.permissions.map((p) => [
        permissionLabel(p.permission, book),
        p.whyNot ? results.notPossible({ why: desk.consent.whyNot[p.whyNot] }) : standingInWords(p.standing),
      ]),
    );
  });
  if (!options.json) for (const { tellStatus } of cliAbilities) await tellStatus?.(value);
}

export async function watch(options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'follow', afterSeq: 0 }, (value) => {
    const entry = value as { atMs: number; sentence: string };
    if (options.json) process.stdout.write(`${JSON.stringify(value)}\n`);
    else printLine(`${clock(entry.atMs)}  ${entry.sentence}`);
  });
}
