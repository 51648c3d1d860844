import { rulesOf, Permission, whyNotWords, type WhyNot } from '@porch/core';
import { cliAbilities } from '../abilities/index.ts';
import { callKeeper } from '../keeper/call-keeper.ts';
import { clock, printLine, printTable } from '../print.ts';
import { type CommonOptions, show } from './common.ts';

const stepSentences: Record<string, string> = {
  '': 'The customer is not here yet. Say: “Please open the front door and type the code.”',
  'page-open': 'They have the page open. Say: “Please read who asks, and press Begin.”',
  'reading-who-asks': 'They are reading who asks. Say: “Take your time; you should see my name there.”',
  'getting-doorstep': 'They are starting Doorstep. Say: “A small window will ask you; it says my name.”',
  'prompt-open': 'A question is open on their screen. Say: “Please look at your screen and answer the question.”',
  ready: 'They are ready.',
};

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

export const standingWords: Record<string, string> = {
  notAsked: 'not asked',
  waiting: 'waiting',
  allowed: 'allowed',
  saidNo: 'said no',
  lapsed: 'no answer',
  takenBack: 'taken back',
  over: 'over',
};

export async function status(options: CommonOptions): Promise<void> {
  const value = (await callKeeper(options.session, { call: 'status' })) as Status;
  show(value, options, () => {
    printLine(`${value.customerName ?? 'Nobody yet'}: ${value.purpose ?? ''} (${value.phase}, line ${value.line})`);
    printLine(stepSentences[value.step] ?? value.step);
    if (value.isBrowserThere)
      printLine('They show from their browser: for more than looking, ask them to open Doorstep.');
    printTable(
      ['PERMISSION', 'STATE'],
      value.permissions.map((p) => [
        rulesOf(p.permission).label,
        p.whyNot ? `not possible here: ${whyNotWords[p.whyNot]}` : (standingWords[p.standing] ?? p.standing),
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
