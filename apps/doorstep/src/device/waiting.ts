import type { Logger } from 'pino';
import type { LeftGuard } from '../left-guard.ts';
import type { Desktop } from '../desktop/desktop.ts';
import { runDoorstep } from '../doorstep.ts';
import { DeviceLink, type Knock } from './device-link.ts';
import type { Standing, StandingStore } from './standing-store.ts';

/** Somebody who touched mouse or keyboard within this is at the device. */
const IN_USE_MS = 3 * 60_000;
/** How soon it is noticed that the consent was ended by another program of this account, or ran out. */
const LOOK_MS = 400;
/** How long this program, with nothing left on the disk, goes on trying to tell the desk that the consent has ended. */
const FAREWELL_MS = 24 * 60 * 60_000;

export interface WaitingOptions {
  readonly store: StandingStore;
  readonly desktop: Desktop;
  readonly guard: LeftGuard;
  readonly stateFolder: string;
  readonly home: string;
  readonly downloads: string;
  readonly log: Logger;
  /** Whether this program is in another session just now. */
  isBusy(): boolean;
  /** Takes away what starts this program with each sign-in. */
  unregister(): void;
}

/** Waits for visits until the standing consent ends. Resolves with why it ended, in words. */
export async function runWaiting(options: WaitingOptions, signal: AbortSignal): Promise<string> {
  const { store, desktop, log, unregister } = options;
  const standing = store.read();
  if (!standing) return 'there is no standing consent on this account';
  const link = new DeviceLink(standing.serviceUrl, standing.deviceId, standing.signSecret, log);
  // Who has just made a consent, or signed in, is there.
  let lastInputMs = Date.now();
  const offInput = desktop.ports.person.onLocalInput(() => {
    lastInputMs = Date.now();
    link.setInUse(true);
  });
  let visit: AbortController | undefined;
  const isForgotten = new Promise<string>((resolve) => {
    link.listeners.on('forget', () => resolve('the desk will not come back'));
  });
  link.listeners.on('visit', (knock) => {
    if (visit || options.isBusy()) {
      link.notTaken(knock.sessionId, 'busy');
      return;
    }
    visit = new AbortController();
    receive(options, standing, knock, visit.signal)
      .catch((error: unknown) => log.warn({ why: String(error) }, 'a visit could not be received'))
      .finally(() => (visit = undefined));
  });
  let stopLooking: () => void = () => undefined;
  const isEnded = new Promise<'ended-here' | 'ran-out' | 'closed'>((resolve) => {
    const looking = setInterval(() => {
      link.setInUse(Date.now() - lastInputMs < IN_USE_MS);
      if (!store.exists) resolve('ended-here');
      else if (Date.now() >= standing.consent.untilMs) resolve('ran-out');
    }, LOOK_MS);
    stopLooking = () => clearInterval(looking);
    signal.addEventListener('abort', () => resolve('closed'), { once: true });
    desktop.onGone(() => resolve('closed'));
  });
  const why = await Promise.race([isForgotten, isEnded]);
  stopLooking();
  offInput();
  visit?.abort();
  if (why === 'closed') {
    link.close();
    return 'Doorstep was closed';
  }
  store.remove();
  unregister();
  if (why === 'ended-here' || why === 'ran-out') {
    // Nothing is left on the disk; only this program still knows how to tell.
    link.tellEnded();
    const patience = setTimeout(() => link.close(), FAREWELL_MS);
    await Promise.race([isForgotten, new Promise((resolve) => signal.addEventListener('abort', resolve))]);
    clearTimeout(patience);
  }
  link.close();
  return why === 'ended-here'
    ? 'the standing consent was ended here'
    : why === 'ran-out'
      ? 'the standing consent ran out'
      : why;
}

async function receive(options: WaitingOptions, standing: Standing, knock: Knock, signal: AbortSignal): Promise<void> {
  const { store, desktop, guard, stateFolder, home, downloads, log } = options;
  let hasBegun = false;
  const comeAtMs = Date.now();
  try {
    const why = await runDoorstep(
      {
        serviceUrl: standing.serviceUrl,
        invitation: { token: knock.token },
        visit: { store, standing, onBegun: () => (hasBegun = true) },
        desktop,
        guard,
        startOptions: [],
        stateFolder,
        home,
        downloads,
        log,
      },
      signal,
    );
    log.info({ why }, 'a visit has ended');
  } finally {
    if (!hasBegun)
      store.addVisit({
        atMs: comeAtMs,
        sessionId: knock.sessionId,
        technicianName: knock.technicianName,
        hasBegun: false,
      });
  }
}
