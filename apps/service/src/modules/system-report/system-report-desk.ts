import { refuse } from '@porch/core';
import {
  AppError,
  MAX_REPORT_BYTES,
  readSystemReport,
  type EarlierSystemReport,
  type KeptSystemReport,
} from '@porch/wire';
import { createHash } from 'node:crypto';
import type { DataSource, EntityManager } from 'typeorm';
import type { z } from 'zod';
import type { BytesSealer, SealedRow } from '../../db/sealed-anew.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { SystemReportEntity } from './system-report-table.ts';

/** In the records of one session. */
const MAX_KEPT = 50;

const viewOf = ({ id, keptAt, sizeBytes, sha256 }: Omit<SealedRow, 'sealed'>): KeptSystemReport => ({
  reportId: id,
  keptAtMs: keptAt.getTime(),
  sizeBytes,
  sha256: sha256.toString('hex'),
});

/** System reports in the records of sessions. */
export class SystemReportDesk {
  readonly #records: DataSource;
  readonly #book: SessionBook;
  readonly #sealer: BytesSealer;

  constructor(records: DataSource, book: SessionBook, sealer: BytesSealer) {
    this.#records = records;
    this.#book = book;
    this.#sealer = sealer;
  }

  /** Puts one there and says so in the ledger: both or neither. Again is once. Only whoever had it read may. */
  async keep(technicianId: string, sessionId: string, reportId: string, value: unknown): Promise<KeptSystemReport> {
    const report = readSystemReport(value);
    if (!report) throw new AppError('INVALID_REQUEST');
    const bytes = Buffer.from(JSON.stringify(report));
    if (bytes.length > MAX_REPORT_BYTES) throw new AppError('MESSAGE_TOO_LARGE');
    const sha256 = createHash('sha256').update(bytes).digest();
    await this.#book.act(sessionId, async ({ state }, nowMs, tx) => {
      const read = state.slices['system-report'][reportId];
      if (!read || state.participants[read.readById]?.technicianId !== technicianId) return refuse('NOT_GRANTED');
      const rows = tx.getRepository(SystemReportEntity);
      if (await rows.existsBy({ id: reportId })) return [];
      if ((await rows.countBy({ sessionId })) >= MAX_KEPT) return refuse('SESSION_TOO_LONG');
      await rows.insert({
        ...{ id: reportId, sessionId, keptAt: new Date(nowMs), sizeBytes: bytes.length, sha256 },
        sealed: this.#sealer.sealBytes(bytes),
        sealedWith: this.#sealer.secretIds[0],
      });
      return [{ type: 'system-report/kept', by: read.readById, reportId, sha256: sha256.toString('hex') }];
    });
    const row = await this.#records.getRepository(SystemReportEntity).findOneBy({ id: reportId, sessionId });
    if (!row) throw new AppError('REPORT_NOT_FOUND');
    return viewOf(row);
  }

  async list(sessionId: string): Promise<KeptSystemReport[]> {
    const rows = await this.#records
      .getRepository(SystemReportEntity)
      .find({ where: { sessionId }, order: { keptAt: 'ASC' } });
    return rows.map(viewOf);
  }

  /** Throws REPORT_NOT_FOUND, also when its secret is not known any longer. */
  async read(sessionId: string, reportId: string): Promise<unknown> {
    const row = await this.#records
      .getRepository(SystemReportEntity)
      .findOne({ where: { sessionId, id: reportId }, select: { id: true, sealed: true } });
    const report = row && this.#open(row.sealed);
    if (report === undefined || report === null) throw new AppError('REPORT_NOT_FOUND');
    return report;
  }

  /** The last one of the same device from a session that was prepared before this one. */
  async earlier(sessionId: string): Promise<z.output<typeof EarlierSystemReport> | undefined> {
    const [row] = await this.#records.query<{ session_id: string; technician_name: string; sealed: Buffer }[]>(
      `SELECT r."session_id", s."technician_name", r."sealed"
         FROM "session_tie" mine JOIN "session_tie" t ON t."kind" = mine."kind" AND t."key" = mine."key"
         JOIN "session" s ON s."id" = t."session_id" JOIN "system_report" r ON r."session_id" = t."session_id"
        WHERE mine."session_id" = $1 AND mine."kind" = 'device' AND t."session_id" <> $1 AND t."prepared_at" <= mine."prepared_at"
        ORDER BY r."kept_at" DESC LIMIT 1`,
      [sessionId],
    );
    const report = row && this.#open(row.sealed);
    return row && report !== undefined
      ? { sessionId: row.session_id, technicianName: row.technician_name, report }
      : undefined;
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(SystemReportEntity).delete({ sessionId });
  }

  #open(sealed: Buffer): unknown {
    const bytes = this.#sealer.openBytes(sealed);
    return bytes && (JSON.parse(bytes.toString('utf8')) as unknown);
  }
}
