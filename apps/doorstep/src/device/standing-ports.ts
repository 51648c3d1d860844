import type { RestClient } from '@porch/client';
import { MAX_SECRET_TRIES, StandingConsent } from '@porch/core';
import type { KeepPort, VisitPort } from '@porch/host';
import { makeKeys, scalarOfSecret } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import { hostname } from 'node:os';
import type { Standing, StandingStore } from './standing-store.ts';

/** A visit to this device, under the consent that lies on this account's disk. */
export const visitPort = (visit: { store: StandingStore; standing: Standing; onBegun(): void }): VisitPort => ({
  standing: visit.standing,
  read: () => visit.store.read(),
  takeTry: () => visit.store.takeTry(),
  setTries: (triesLeft) => visit.store.setTries(triesLeft),
  addVisit: (line) => visit.store.addVisit(line),
  onBegun: () => visit.onBegun(),
});

/** Where a standing consent that is made in this session goes: the desk hears of it, the disk keeps it. */
export function keepPort(parts: {
  readonly rest: RestClient;
  readonly store: StandingStore;
  readonly serviceUrl: string;
  readonly deskName: string;
  readonly mostDays: number;
  /** A standing consent has been made: somebody has to wait for visits from now on. */
  onKept(): void;
  onDropped(): void;
}): KeepPort {
  const { rest, store, serviceUrl, deskName, mostDays } = parts;
  return {
    mostDays,
    computer: hostname(),
    get isTaken() {
      return store.exists;
    },
    onDropped: () => parts.onDropped(),
    async keep(consent, words) {
      const { signSecret, signKey } = makeKeys();
      const salt = randomBytes(16).toString('hex');
      const scalar = await scalarOfSecret(words.join(' '), salt);
      const { deviceId } = await rest.keepDevice({ consent: StandingConsent.parse(consent), signKey });
      store.write({
        version: 1,
        uid: process.getuid?.() ?? -1,
        serviceUrl,
        deskName,
        deviceId,
        signSecret: Buffer.from(signSecret).toString('hex'),
        consent,
        salt,
        scalar,
        triesLeft: MAX_SECRET_TRIES,
      });
      parts.onKept();
    },
  };
}
