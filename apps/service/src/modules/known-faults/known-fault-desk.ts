import { randomUUID } from 'node:crypto';
import { AppError, type KnownFaultBody, type KnownFaultView } from '@porch/wire';
import { IsNull, type DataSource } from 'typeorm';
import type { z } from 'zod';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { KnownFaultEntity, type KnownFaultRow } from './known-fault-table.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import { permit } from '../../auth/permit.ts';
import type { Outbox } from '../outbox/outbox.ts';
import { plainText } from '../tickets/plain-text.ts';

const MAX_KNOWN_FAULTS = 20;

const view = (row: KnownFaultRow): KnownFaultView => ({
  id: row.id,
  topic: row.topic,
  text: row.text,
  ...(row.ticketRef ? { ticketRef: row.ticketRef } : {}),
  happensToCount: row.happensToCount,
  atMs: row.at.getTime(),
});

/** Known faults: said before forty people wait for the same answer, and counted when they say that it happens to them, too. */
export class KnownFaultDesk {
  readonly #records: DataSource;
  readonly #outbox: Outbox;
  readonly #technicians: Technicians;

  constructor(records: DataSource, outbox: Outbox, technicians: Technicians) {
    this.#technicians = technicians;
    this.#records = records;
    this.#outbox = outbox;
  }

  async open(): Promise<KnownFaultView[]> {
    const rows = await this.#records
      .getRepository(KnownFaultEntity)
      .find({ where: { endedAt: IsNull() }, order: { at: 'DESC' }, take: MAX_KNOWN_FAULTS });
    return rows.map(view);
  }

  async put(me: Technician, body: z.infer<typeof KnownFaultBody>): Promise<KnownFaultView> {
    const knownFaults = this.#records.getRepository(KnownFaultEntity);
    if ((await knownFaults.countBy({ endedAt: IsNull() })) >= MAX_KNOWN_FAULTS) throw new AppError('TOO_MANY_ATTEMPTS');
    const row: KnownFaultRow = {
      id: randomUUID(),
      topic: body.topic,
      text: body.text,
      ticketRef: body.ticketRef ?? null,
      technicianId: me.id,
      happensToCount: 0,
      at: new Date(),
      endedAt: null,
    };
    await knownFaults.insert(row);
    return view(row);
  }

  async end(me: Technician, id: string): Promise<void> {
    const row = await this.#records.getRepository(KnownFaultEntity).findOneBy({ id, endedAt: IsNull() });
    if (!row) throw new AppError('KNOWN_FAULT_NOT_FOUND');
    const ownerTeam = this.#technicians.get(row.technicianId)?.team;
    permit(me, 'end a known fault', { ownerId: row.technicianId, ownerTeam });
    const { affected } = await this.#records
      .getRepository(KnownFaultEntity)
      .update({ id, endedAt: IsNull() }, { endedAt: new Date() });
    if (!affected) throw new AppError('KNOWN_FAULT_NOT_FOUND');
  }

  /** It happens to one more: counted, and told to the parent ticket by way of the outbox. */
  async happensToo(id: string, who: { name: string; address: string }): Promise<KnownFaultView> {
    const row = await inTransaction(this.#records, async (tx) => {
      const knownFaults = tx.getRepository(KnownFaultEntity);
      const found = await knownFaults
        .createQueryBuilder('n')
        .setLock('pessimistic_write')
        .where('n.id = :id AND n."ended_at" IS NULL', { id })
        .getOne();
      if (!found) throw new AppError('KNOWN_FAULT_NOT_FOUND');
      await knownFaults.update({ id }, { happensToCount: found.happensToCount + 1 });
      if (found.ticketRef)
        await this.#outbox.put(
          tx,
          found.id,
          'remark',
          {
            ref: found.ticketRef,
            text: `${plainText(who.name, 120)} (${plainText(who.address, 200)}) says that it happens to them, too.`,
          },
          await databaseNowMs(tx),
        );
      return { ...found, happensToCount: found.happensToCount + 1 };
    });
    return view(row);
  }
}
