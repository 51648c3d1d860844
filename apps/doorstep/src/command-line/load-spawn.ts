import type { spawn } from '@lydell/node-pty';
import type { Logger } from 'pino';

/** What begins programs behind a terminal; undefined where its native part cannot be had, and then there is no command line. */
export async function loadSpawn(log: Logger): Promise<typeof spawn | undefined> {
  try {
    return (await import('@lydell/node-pty')).spawn;
  } catch (error) {
    log.warn({ why: String(error) }, 'no command line can be offered');
    return undefined;
  }
}
