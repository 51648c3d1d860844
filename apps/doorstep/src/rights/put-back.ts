import { takesAway, type RightsBack } from '@porch/core';
import { ADMINISTRATORS_FOLDER, RunRefused, type ScriptEnded } from '@porch/host';
import { isNeededService } from '../programs/guards.ts';
import { planFor } from '../programs/plans.ts';
import { runHeld } from '../runbook/run-script.ts';
import type { RunGuard } from '../runs/run-guard.ts';
import { actsFor } from '../safe-points/service-states.ts';
import { runToItsEnd, SYSTEM_PATH } from '../system/run-command.ts';
import { packageLog } from '../system/programs-part.ts';
import { aptArguments, otherwiseChanged, wereHere } from './packages-back.ts';

const APT = '/usr/bin/apt-get';
const NONE_ENDED: ScriptEnded = { code: 0, mayGoOn: false };

/**
 * Puts packages and services of the computer back, as its administrator. It believes nobody: a package becomes only what the
 * computer's own package log says that it was here, no package changes besides, and no service goes that the computer hangs
 * on. Resolves with the first end that was none of success; throws RunRefused, before anything is changed, for what it does not do.
 */
export async function putBack(
  { orderId, back }: { readonly orderId: string; readonly back: RightsBack },
  guard: RunGuard,
  { may, signal }: { may: () => boolean; signal: AbortSignal },
): Promise<ScriptEnded> {
  const { packages, services } = back;
  const isNeeded = services.some(
    (one) => actsFor(one).some(takesAway) && isNeededService(one.target.split('/')[1] ?? ''),
  );
  if (isNeeded) throw new RunRefused('the computer or this session would stop with it');
  const ended = packages.length ? await packagesBack(orderId, packages, guard, { may, signal }) : NONE_ENDED;
  let isDone = true;
  for (const service of services)
    for (const act of actsFor(service)) {
      const plan = await planFor(act, service.target, signal);
      const { outcome } = await plan.act(may, signal);
      isDone = isDone && outcome === 'done';
    }
  return { ...ended, code: isDone ? ended.code : ended.code || 1 };
}

async function packagesBack(
  orderId: string,
  packages: RightsBack['packages'],
  guard: RunGuard,
  how: { may: () => boolean; signal: AbortSignal },
): Promise<ScriptEnded> {
  if (!wereHere(packageLog(), packages)) throw new RunRefused('by its package log it was never like that here');
  const args = aptArguments(packages);
  const { code, out } = await runToItsEnd(APT, ['--simulate', ...args], how.signal);
  if (code !== 0) throw new RunRefused('that version cannot be had any longer');
  if (otherwiseChanged(out, packages).length) throw new RunRefused('other packages would change with it');
  const env = { PATH: SYSTEM_PATH, LC_ALL: 'C', DEBIAN_FRONTEND: 'noninteractive', HOME: ADMINISTRATORS_FOLDER };
  return runHeld(
    orderId,
    [APT, ...args],
    { cwd: ADMINISTRATORS_FOLDER, env, guard },
    { ...how, print: () => undefined },
  );
}
