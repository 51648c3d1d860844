import { MOST_TRIES, type PasswordTyped, type PasswordWanted, type RaisedRights } from '@porch/host';
import { spawn } from 'node:child_process';
import { userInfo } from 'node:os';
import { HeldPart } from './held-part.ts';
import { rootCommand } from './root-command.ts';
import { refusalOf } from './refusals.ts';
import { SYSTEM_PATH } from '../system/run-command.ts';

export const SUDO = '/usr/bin/sudo';
/** Nothing that a program prints by chance. */
const PROMPT = '\u0001the password\u0001';
const MAX_COMPLAINT_CHARACTERS = 4_000;

/**
 * Rights by sudo(8), which reads the password from the very pipe that the part is spoken to over: it stands in no argument,
 * no environment and no file. Rejects with RightsRefused.
 */
export async function raiseBySudo(
  put: (wanted: PasswordWanted) => Promise<PasswordTyped | undefined>,
  signal: AbortSignal,
): Promise<RaisedRights> {
  const child = spawn(SUDO, ['-S', '-k', '-p', PROMPT, '--', ...rootCommand()], {
    env: { PATH: SYSTEM_PATH, LC_ALL: 'C' },
    stdio: ['pipe', 'pipe', 'pipe'],
    signal,
  });
  const part = new HeldPart(child.stdin, child.stdout);
  let said = '';
  let tries = 0;
  let isUnwanted = false;
  const account = userInfo().username;
  const ask = async () => {
    const typed = await put({ accounts: [account], triesLeft: MOST_TRIES - tries++ });
    isUnwanted = typed === undefined;
    if (typed) child.stdin.write(`${typed.password}\n`);
    else child.kill();
  };
  child.stderr.on('data', (bytes: Buffer) => {
    said = (said + bytes.toString('utf8')).slice(-MAX_COMPLAINT_CHARACTERS);
    if (!said.includes(PROMPT)) return;
    said = said.replace(PROMPT, '');
    ask().catch(() => child.kill());
  });
  child.on('error', () => undefined); // It went; the pipe says so, and `signal` is looked at below.
  try {
    await part.begun();
    return part;
  } catch (error) {
    child.kill();
    part.lower();
    if (signal.aborted) throw error;
    throw refusalOf(isUnwanted ? 'not-typed' : said.includes('incorrect password') ? 'wrong' : 'nobody');
  }
}
