import { type PasswordTyped, type PasswordWanted, type RaisedRights } from '@porch/host';
import { spawn } from 'node:child_process';
import { HeldPart } from './held-part.ts';
import { PolkitAgent } from './polkit-agent.ts';
import { refusalOf } from './refusals.ts';
import { rootCommand } from './root-command.ts';
import { SYSTEM_PATH } from '../system/run-command.ts';

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
      ...{ stdio: ['pipe', 'pipe', 'ignore'], signal, env: { PATH: SYSTEM_PATH, LC_ALL: 'C' } },
    });
    child.on('error', () => undefined); // It went; the pipe says so.
    const part = new HeldPart(child.stdin, child.stdout);
    await part.begun().catch((error: unknown) => {
      part.lower();
      if (signal.aborted) throw error;
      throw refusalOf(agent.outcome === 'right' ? 'nobody' : agent.outcome);
    });
    return part;
  } finally {
    agent.close();
  }
}
