import { programInWords } from '@porch/core';
import { RestClient, safeAddress } from '@porch/client';
import { CliError, exitCodes } from '../exit-codes.ts';
import { credentialsOf, forgetCredentials, profileNames, writeCredentials } from '../home.ts';
import { nodeExchange } from '../http-exchange.ts';
import { printLine, printList } from '../print.ts';
import { desk, results, speech, wrong } from '../words.ts';
import { type CommonOptions, readHidden, rest, show } from './common.ts';

const programOf = ({ program }: { readonly program: string }) => programInWords(program, desk.signIn);

async function readPassword(fromStdin: boolean): Promise<string> {
  if (process.env['PORCH_PASSWORD']) return process.env['PORCH_PASSWORD'];
  return readHidden(results.password, fromStdin, wrong.usePasswordStdin);
}

export async function signIn(
  options: CommonOptions & { service: string; email: string; passwordStdin?: boolean },
): Promise<void> {
  const password = await readPassword(options.passwordStdin ?? false);
  const answer = await new RestClient(nodeExchange(safeAddress(options.service))).signIn(
    options.email,
    password,
    'token',
  );
  writeCredentials({ url: options.service, token: answer.token ?? '', name: answer.technician.name });
  show({ technician: answer.technician, expiresAtMs: answer.expiresAtMs }, options, () =>
    printLine(results.signedIn({ name: answer.technician.name, team: answer.technician.team })),
  );
}

/** Who is signed in where, in which profile. */
export function profiles(options: CommonOptions): void {
  const current = process.env['PORCH_PROFILE'];
  const items = [undefined, ...profileNames()].map((name) => {
    const at = credentialsOf(name);
    return { name: name ?? '', isCurrent: name === (current || undefined), service: at?.url, technician: at?.name };
  });
  printList(
    { items },
    options,
    [
      ['PROFILE', (p) => `${p.name || '(none)'}${p.isCurrent ? ' *' : ''}`],
      ['SERVICE', (p) => p.service ?? ''],
      ['WHO', (p) => p.technician ?? results.isSignedOut],
    ],
    '',
  );
}

export async function signOut(): Promise<void> {
  await rest().signOut();
  forgetCredentials();
  printLine(results.signedOut);
}

export async function signIns(options: CommonOptions & { end?: string; endOthers?: boolean }): Promise<void> {
  const client = rest();
  const all = await client.signIns();
  if (options.end || options.endOthers) {
    const wanted = options.end?.toLowerCase();
    const one = wanted === undefined ? undefined : all.find((s) => s.id.startsWith(wanted));
    if (wanted !== undefined && !one) throw new CliError(wrong.noSignIn, exitCodes.noSession);
    const { ended } = await client.endSignIns(one ? [one.id] : 'all-others');
    show({ ended }, options, () => printLine(results.signInsEnded({ count: ended })));
    return;
  }
  printList(
    { items: all },
    options,
    [
      ['ID', (s) => s.id.slice(0, 8)],
      ['SINCE', (s) => speech.exactlyHere(s.begunAtMs)],
      ['FROM', (s) => s.address],
      ['WITH', (s) => (s.isThisOne ? results.thisOne({ program: programOf(s) }) : programOf(s))],
    ],
    results.signedInNowhere,
  );
}
