import { RightsRefused, type PasswordTyped, type PasswordWanted, type RaisedRights } from '@porch/host';
import { spawn } from 'node:child_process';
import { HeldPart } from './held-part.ts';
import { PolkitAgent } from './polkit-agent.ts';
import { WRONG_PASSWORD } from './refusals.ts';
import { rootCommand } from './root-command.ts';

export const PKEXEC = '/usr/bin/pkexec';

/** Rights by pkexec(1), with Doorstep as the agent that asks. Rejects with RightsRefused; throws where there is no polkit. */
export async function raiseByPolkit(
  put: (wanted: PasswordWanted) => Promise<PasswordTyped | undefined>,
  signal: AbortSignal,
): Promise<RaisedRights> {
  const command = rootCommand();
  const agent = await PolkitAgent.open(put);
  try {
    const child = spawn(PKEXEC, ['--disable-internal-agent', ...command], {
      ...{ stdio: ['pipe', 'pipe', 'ignore'], signal, env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin', LC_ALL: 'C' } },
    });
    child.on('error', () => undefined); // It went; the pipe says so.
    const part = new HeldPart(child.stdin, child.stdout);
    await part.begun().catch((error: unknown) => {
      part.lower();
      if (signal.aborted) throw error;
      if (agent.outcome === 'not-typed') throw new RightsRefused('no password was typed', 'not-typed');
      if (agent.outcome === 'wrong') throw new RightsRefused(...WRONG_PASSWORD);
      throw new RightsRefused('nobody can become administrator here');
    });
    return part;
  } finally {
    agent.close();
  }
}
