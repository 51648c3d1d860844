import { randomUUID } from 'node:crypto';
import { AppError, type NoticeBody, type NoticeView } from '@porch/wire';
import { IsNull, type DataSource } from 'typeorm';
import type { z } from 'zod';
import { databaseNowMs, inTransaction } from '../db/data-source.ts';
import { NoticeEntity, type NoticeRow, type TechnicianRow } from '../db/entities.ts';
import { permit } from '../auth/permit.ts';
import type { Outbox } from '../tickets/outbox.ts';
import { plainText } from '../tickets/plain-text.ts';

const MAX_NOTICES = 20;

const view = (row: NoticeRow): NoticeView => ({
  id: row.id,
  topic: row.topic,
  text: row.text,
  ...(row.ticketRef ? { ticketRef: row.ticketRef } : {}),
  meToo: row.meToo,
  atMs: row.at.getTime(),
});

/** Known faults: said before forty people wait for the same answer, and counted when they say "me too". */
export class NoticeDesk {
  readonly #records: DataSource;
  readonly #outbox: Outbox;
  readonly #technicians: ReadonlyMap<string, TechnicianRow>;

  constructor(records: DataSource, outbox: Outbox, technicians: ReadonlyMap<string, TechnicianRow>) {
    this.#technicians = technicians;
    this.#records = records;
    this.#outbox = outbox;
  }

  async open(): Promise<NoticeView[]> {
    const rows = await this.#records
      .getRepository(NoticeEntity)
      .find({ where: { endedAt: IsNull() }, order: { at: 'DESC' }, take: MAX_NOTICES });
    return rows.map(view);
  }

  async put(me: TechnicianRow, body: z.infer<typeof NoticeBody>): Promise<NoticeView> {
    const notices = this.#records.getRepository(NoticeEntity);
    if ((await notices.countBy({ endedAt: IsNull() })) >= MAX_NOTICES) throw new AppError('TOO_MANY_ATTEMPTS');
    const row: NoticeRow = {
      id: randomUUID(),
      topic: body.topic,
      text: body.text,
      ticketRef: body.ticketRef ? body.ticketRef.toUpperCase() : null,
      technicianId: me.id,
      meToo: 0,
      at: new Date(),
      endedAt: null,
    };
    await notices.insert(row);
    return view(row);
  }

  async end(me: TechnicianRow, id: string): Promise<void> {
    const row = await this.#records.getRepository(NoticeEntity).findOneBy({ id, endedAt: IsNull() });
    if (!row) throw new AppError('NOTICE_NOT_FOUND');
    const ownerTeam = this.#technicians.get(row.technicianId)?.team;
    permit(me, 'end a known fault', { ownerId: row.technicianId, ownerTeam });
    const { affected } = await this.#records
      .getRepository(NoticeEntity)
      .update({ id, endedAt: IsNull() }, { endedAt: new Date() });
    if (!affected) throw new AppError('NOTICE_NOT_FOUND');
  }

  /** One more has it: counted, and told to the parent ticket by way of the outbox. */
  async meToo(id: string, who: { name: string; address: string }): Promise<NoticeView> {
    const row = await inTransaction(this.#records, async (tx) => {
      const notices = tx.getRepository(NoticeEntity);
      const found = await notices
        .createQueryBuilder('n')
        .setLock('pessimistic_write')
        .where('n.id = :id AND n."ended_at" IS NULL', { id })
        .getOne();
      if (!found) throw new AppError('NOTICE_NOT_FOUND');
      await notices.update({ id }, { meToo: found.meToo + 1 });
      if (found.ticketRef)
        await this.#outbox.put(
          tx,
          found.id,
          'remark',
          { ref: found.ticketRef, text: `${plainText(who.name, 120)} (${plainText(who.address, 200)}) has this, too.` },
          await databaseNowMs(tx),
        );
      return { ...found, meToo: found.meToo + 1 };
    });
    return view(row);
  }
}
