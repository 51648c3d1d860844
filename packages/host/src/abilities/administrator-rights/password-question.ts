import { minutesOf, type Participant } from '@porch/core';
import { hints } from '../../consent/questions.ts';
import type { DeskFacts, Kit } from '../../kit.ts';
import type { PasswordTyped, PasswordWanted } from '../../ports/rights-port.ts';

/** How often a password may be typed before it is enough. */
export const MOST_TRIES = 3;
/** Rights last no longer than this, whatever a desk says. */
export const MOST_RIGHTS_MS = 8 * 60 * 60_000;
export const rightsMsOf = ({ rightsMs }: Pick<DeskFacts, 'rightsMs'>): number => Math.min(rightsMs, MOST_RIGHTS_MS);

/** Asks for a password in a window that no picture ever shows. Undefined when the person here does not want it. */
export async function askPassword(
  kit: Kit,
  { from, what }: { readonly from: Participant; readonly what: string },
  { accounts, triesLeft }: PasswordWanted,
  signal: AbortSignal,
): Promise<PasswordTyped | undefined> {
  const { administratorRights: words, kernel } = kit.words;
  const who = from.name ?? kernel.technician;
  const [first = ''] = accounts;
  const isOne = accounts.length <= 1;
  const answer = await kit.ask(
    {
      title: words.title,
      lines: [
        ...(triesLeft < MOST_TRIES ? [words.again({ left: triesLeft })] : []),
        ...[words.forWhat({ who, minutes: minutesOf(rightsMsOf(kit.desk)), what }), words.unseen({ who })],
      ],
      ...(isOne ? {} : { choices: accounts.map((label, i) => ({ label, isOn: i === 0 })), isOneOf: true as const }),
      typed: { label: isOne ? words.password({ account: first }) : words.passwordOfOne },
      ...{ yes: words.go, no: words.no, ...hints(kernel), isSecret: true },
    },
    signal,
  );
  if (answer?.what !== 'yes') return undefined;
  const account = (isOne ? first : accounts[answer.choices.indexOf(true)]) ?? first;
  return { account, password: answer.typed ?? '' };
}
