import type { DesktopKind } from '@porch/wire';
import type { Logind, SignedIn } from '../system/logind.ts';

/** One who is signed in, as systemd's logind knows them. */
export interface SignedInHere extends SignedIn {
  readonly kind: DesktopKind;
  readonly isActive: boolean;
  readonly sinceMs: number;
  /** Of its X server, for a desktop or a sign-in screen. */
  readonly display: string;
}

/** Everybody who is signed in at this computer: what stands for no person, and what is being closed, is left out. */
export async function signedInHere(logind: Logind): Promise<SignedInHere[]> {
  const rows = await Promise.all((await logind.sessions()).map((one) => lookAt(logind, one)));
  return rows.filter((row) => row !== undefined);
}

/** Undefined for what is none, and for one that went while it was looked at. */
async function lookAt(logind: Logind, one: SignedIn): Promise<SignedInHere | undefined> {
  try {
    const [is, state, type] = await Promise.all([
      logind.about(one, 'Class'),
      logind.about(one, 'State'),
      logind.about(one, 'Type'),
    ]);
    if (state === 'closing' || (is !== 'user' && is !== 'greeter')) return undefined;
    const [isActive, sinceMs, display] = await Promise.all([
      logind.isActive(one),
      logind.sinceMs(one),
      logind.about(one, 'Display'),
    ]);
    // Doorstep works X servers; of a desktop of another kind it could show nothing.
    const isDesktop = type === 'x11' && display !== '';
    const kind = !isDesktop ? 'no-desktop' : is === 'greeter' ? 'sign-in-screen' : 'person';
    return { ...one, kind, isActive, sinceMs, display };
  } catch (error) {
    if ((await logind.sessions()).some(({ id }) => id === one.id)) throw error;
    return undefined;
  }
}
