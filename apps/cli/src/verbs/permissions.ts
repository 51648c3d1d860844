import { askedAtHandover, allPermissions, permissionLabel, rulesOf, withNeeds, Permission } from '@porch/core';
import { AppError } from '@porch/wire';
import { CliError, exitCodes } from '../exit-codes.ts';
import { callKeeper } from '../keeper/call-keeper.ts';
import { printLine } from '../print.ts';
import { type CommonOptions, command, show } from './common.ts';
import { book, results, speech, wrong } from '../words.ts';
import { standingInWords } from './status.ts';

const ANSWER_WAIT_MS = 120_000;

/** Short names for what is asked every day. */
const shortNames = new Map(
  allPermissions.flatMap((permission) => {
    const { shortName } = rulesOf(permission);
    return shortName ? [[shortName, permission] as const] : [];
  }),
);

function permissionNamed(name: string): Permission {
  const parsed = Permission.safeParse(shortNames.get(name) ?? name);
  if (parsed.success) return parsed.data;
  const names = [...shortNames.keys(), ...allPermissions.filter((p) => !rulesOf(p).shortName)];
  throw new CliError(wrong.noPermission({ name, names: names.join(', ') }), exitCodes.wrongCall);
}

export async function ask(names: string[], options: CommonOptions & { wait: string }): Promise<void> {
  const permissions = names.map(permissionNamed);
  const value = (await callKeeper(options.session, {
    call: 'ask',
    permissions,
    waitMs: Number(options.wait) * 1000,
  })) as { permission: Permission; standing: string }[];
  show(value, options, () =>
    value.forEach((v) =>
      printLine(
        results.asked({ permission: permissionLabel(v.permission, book), standing: standingInWords(v.standing) }),
      ),
    ),
  );
  if (value.some((v) => v.standing !== 'allowed')) process.exitCode = exitCodes.refused;
}

export async function plan(names: string[], options: CommonOptions): Promise<void> {
  const permissions = withNeeds(names.map(permissionNamed));
  await callKeeper(options.session, { call: 'command', command: { type: 'planned/choose', permissions } });
  const what = speech.list(permissions.map((permission) => permissionLabel(permission, book)));
  show({ planned: permissions }, options, () =>
    printLine(permissions.length ? results.planned({ what }) : results.plannedNothing),
  );
}

export async function giveBack(name: string, options: CommonOptions): Promise<void> {
  await callKeeper(options.session, { call: 'giveBack', permission: permissionNamed(name) });
  show({}, options, () => printLine(results.givenBack));
}

export async function changeOver(isYes: boolean, options: CommonOptions): Promise<void> {
  const { candidateId } = (await callKeeper(options.session, { call: 'status' })) as { candidateId?: string };
  if (!candidateId) throw new CliError(wrong.noCandidate, exitCodes.noSession);
  await command(
    { type: 'answerChangeOver', participantId: candidateId, isYes },
    options,
    isYes ? results.changedOver : results.sentAway,
  );
}

interface Answered {
  readonly permission: Permission;
  readonly standing: string;
}

/**
 * Who takes over asks for what the first technician had, for their own key, or to see. Where words must be compared before
 * mouse and keyboard, they ask for those later.
 */
export async function askAsColleague(sessionId: string, held: readonly Permission[]): Promise<Answered[]> {
  const askFor = (permissions: readonly Permission[]) =>
    callKeeper(sessionId, {
      call: 'ask',
      permissions: [...permissions],
      waitMs: ANSWER_WAIT_MS,
    }) as Promise<Answered[]>;
  const wanted = askedAtHandover(held);
  try {
    return await askFor(wanted);
  } catch (error) {
    if (!(error instanceof AppError) || error.code !== 'WORDS_NOT_COMPARED') throw error;
    return askFor(wanted.filter((permission) => !rulesOf(permission).isHandsOn));
  }
}
