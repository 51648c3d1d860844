import type { PolicyOf } from '../sessions/policy-of.ts';
import { randomUUID } from 'node:crypto';
import { comingBackPermissions, DAY_MS, isEffective } from '@porch/core';
import { AppError, type DeviceView, type KeepDeviceBody } from '@porch/wire';
import { IsNull, LessThan, type DataSource, type EntityManager } from 'typeorm';
import { DeviceEntity, type DeviceRow } from './device-table.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionLists } from '../sessions/session-lists.ts';

/** More devices than this are found by their names only, not listed. */
const MAX_LISTED_DEVICES = 200;
/** How far a device's clock may be ahead of ours when it makes a consent. */
const CLOCK_SLACK_MS = DAY_MS;

/** A device as the desk knows it. */
export type Device = Readonly<DeviceRow>;
export type Presence = 'in-use' | 'away' | undefined;

/** Those that are on stand first, and by name among themselves. */
export const devicePlace = ({ state, name }: Pick<DeviceView, 'state' | 'name'>): string =>
  `${['in-use', 'away', 'offline', 'ended'].indexOf(state)} ${name}`;

export interface DeviceDeskParts {
  readonly records: DataSource;
  readonly book: SessionBook;
  readonly lists: SessionLists;
  readonly policyOf: PolicyOf;
  /** Whether the device is on, and somebody works there. */
  presenceOf(deviceId: string): Presence;
}

/** What the desk knows of devices that customers let it reach. Who may really come in is decided at the device. */
export class DeviceDesk {
  readonly #parts: DeviceDeskParts;

  constructor(parts: DeviceDeskParts) {
    this.#parts = parts;
  }

  /** Writes down a standing consent that was made in this session. Throws DEVICE_NOT_KEPT without the customer's grant. */
  async keep(sessionId: string, { consent, signKey }: KeepDeviceBody): Promise<string> {
    const { records, book, policyOf } = this.#parts;
    const { state } = await book.open(sessionId);
    const nowMs = Date.now();
    const isAllowed = Object.values(state.standings).some((s) =>
      comingBackPermissions.some((permission) => isEffective(s[permission], nowMs)),
    );
    const isInBounds =
      consent.untilMs - consent.madeAtMs <= policyOf(state, nowMs).standingConsentDays * DAY_MS &&
      Math.abs(consent.madeAtMs - nowMs) < CLOCK_SLACK_MS;
    if (!isAllowed || !isInBounds) throw new AppError('DEVICE_NOT_KEPT');
    const id = randomUUID();
    await records.getRepository(DeviceEntity).insert({
      id,
      name: consent.name,
      signKey,
      customerName: state.customerName ?? '',
      customerAddress: state.customerAddress ?? '',
      language: state.language,
      allowed: consent.allowed,
      asksEachVisit: consent.asksEachVisit,
      madeInSession: sessionId,
      madeAt: new Date(consent.madeAtMs),
      untilAt: new Date(consent.untilMs),
      seenAt: null,
      endedAt: null,
      endedHow: null,
    });
    return id;
  }

  find(id: string): Promise<Device | null> {
    return this.#parts.records.getRepository(DeviceEntity).findOneBy({ id });
  }

  /** One that may be reached now, as far as the desk knows. Throws DEVICE_NOT_FOUND. */
  async reachable(id: string): Promise<Device> {
    const row = await this.find(id);
    if (!row || row.endedAt || row.untilAt.getTime() <= Date.now()) throw new AppError('DEVICE_NOT_FOUND');
    return row;
  }

  /** Those that may be reached, or, with words, whatever has them in its name or its customer's. */
  async list(words = '', most = MAX_LISTED_DEVICES): Promise<DeviceView[]> {
    const query = this.#parts.records.getRepository(DeviceEntity).createQueryBuilder('d').limit(most);
    if (words.trim())
      query.where(`concat_ws(' ', d.name, d."customer_name") ILIKE :words`, {
        words: `%${words.trim().replace(/[%_\\]/g, '\\$&')}%`,
      });
    else query.where(`d."ended_at" IS NULL`);
    const rows = await query.orderBy('d.name').getMany();
    const last = await this.#parts.lists.lastOfDevices(rows.map((r) => r.id));
    return rows
      .map((row): DeviceView => {
        const lastVisit = last.get(row.id);
        const presence = row.endedAt ? ('ended' as const) : (this.#parts.presenceOf(row.id) ?? 'offline');
        return {
          id: row.id,
          name: row.name,
          customerName: row.customerName,
          allowed: row.allowed,
          untilMs: row.untilAt.getTime(),
          asksEachVisit: row.asksEachVisit,
          state: presence,
          ...(row.seenAt ? { seenAtMs: row.seenAt.getTime() } : {}),
          ...(lastVisit ? { lastVisit } : {}),
          ...(row.endedAt && row.endedHow ? { ended: { atMs: row.endedAt.getTime(), how: row.endedHow } } : {}),
        };
      })
      .sort((a, b) => (devicePlace(a) < devicePlace(b) ? -1 : 1));
  }

  /** The consent stays what it is; whose it is, is forgotten here. */
  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx
      .getRepository(DeviceEntity)
      .update({ madeInSession: sessionId }, { customerName: '', customerAddress: '' });
  }

  async seen(id: string): Promise<void> {
    await this.#parts.records.getRepository(DeviceEntity).update({ id }, { seenAt: new Date() });
  }

  /** Only takes away, and only once: the first who ends it is the one who did. */
  async end(id: string, how: NonNullable<DeviceRow['endedHow']>): Promise<void> {
    await this.#parts.records
      .getRepository(DeviceEntity)
      .update({ id, endedAt: IsNull() }, { endedAt: new Date(), endedHow: how });
  }

  /** Ends those whose time is over; answers how many. */
  async endOld(): Promise<number> {
    const { affected } = await this.#parts.records
      .getRepository(DeviceEntity)
      .update({ endedAt: IsNull(), untilAt: LessThan(new Date()) }, { endedAt: new Date(), endedHow: 'ran-out' });
    return affected ?? 0;
  }

  /** What came of a visit that Doorstep did not take, into the session's ledger, where the technician reads it. */
  async noteNotTaken(deviceId: string, sessionId: string, why: 'busy' | 'ended'): Promise<void> {
    await this.#parts.book.act(sessionId, ({ state }) =>
      state.deviceId === deviceId
        ? [
            {
              type: 'factNoted',
              by: 'service',
              what:
                why === 'busy' ? 'the device is in another session just now' : 'the standing consent has ended there',
            },
          ]
        : [],
    );
  }
}
