import { mkdirSync, realpathSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { basename, dirname } from 'node:path';
import { FIRST_PERSON } from '../system/accounts.ts';
import { runCommand } from '../system/run-command.ts';

/*
 * One sign-in without a password at the next start: a file that the sign-in screen (LightDM, its lightdm.conf.d) reads as it
 * starts, and a unit that deletes both as soon as it has. No password is kept anywhere.
 */

const DISPLAY_MANAGER = '/etc/systemd/system/display-manager.service';
const CONFIG = '/etc/lightdm/lightdm.conf.d/99-zesty-porch-once.conf';
const UNIT = '/etc/systemd/system/zesty-porch-once.service';
const WANTED = '/etc/systemd/system/graphical.target.wants/zesty-porch-once.service';
const LATE = 'zesty-porch-once-late';
const LOOK_MS = 5_000;
/** A computer that has not gone down by then is not to sign anybody in at some later start. */
const GOES_DOWN_S = 180;

const unit = `[Unit]
Description=Forget the one sign-in after a restart in a support session
After=display-manager.service
ConditionPathExists=${CONFIG}

[Service]
Type=oneshot
ExecStart=/bin/rm -f ${CONFIG} ${WANTED} ${UNIT}
`;

/** Whether the sign-in screen here is one that this is known of. */
export function canSignInOnce(): boolean {
  try {
    return basename(realpathSync(DISPLAY_MANAGER)) === 'lightdm.service';
  } catch {
    return false; // There is none.
  }
}

/** As root: this account, which must be the caller's own, is signed in once at the next start. Answers why not. */
export async function signInOnce(account: string, uid: number | undefined): Promise<string | undefined> {
  if (!canSignInOnce()) return 'nobody can be signed in by itself there';
  const row = await runCommand('getent', ['passwd', '--', account], AbortSignal.timeout(LOOK_MS)).catch(() => '');
  const [name, , number] = row.split(':');
  const isTheirs = name === account && uid !== undefined && uid >= FIRST_PERSON && number === String(uid);
  if (!isTheirs || !/^[\w.-]+$/.test(account)) return 'only the account that is signed in there comes back by itself';
  mkdirSync(dirname(CONFIG), { recursive: true });
  mkdirSync(dirname(WANTED), { recursive: true });
  // Whatever happens from here on, it goes again.
  const late = ['--collect', `--on-active=${GOES_DOWN_S}`, `--unit=${LATE}-${process.pid}`];
  await runCommand('systemd-run', [...late, '/bin/rm', '-f', CONFIG, WANTED, UNIT], AbortSignal.timeout(LOOK_MS));
  writeFileSync(UNIT, unit);
  rmSync(WANTED, { force: true });
  symlinkSync(UNIT, WANTED);
  writeFileSync(CONFIG, `[Seat:*]\nautologin-user=${account}\nautologin-user-timeout=0\n`);
  return undefined;
}
