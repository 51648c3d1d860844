import { refuse, type SessionState } from '@porch/core';
import { AppError, isPng, type KeptScreenshot } from '@porch/wire';
import { createHash } from 'node:crypto';
import type { DataSource, EntityManager } from 'typeorm';
import type { BytesSealer } from '../../db/sealed-anew.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { ScreenshotEntity } from './screenshot-table.ts';

/** In the records of one session. */
const MAX_KEPT = 40;

/** Whose participant took this one in this session; undefined when nobody of theirs did. */
function takerOf(state: SessionState, technicianId: string, screenshotId: string): string | undefined {
  const takenById = state.slices.screenshot[screenshotId]?.takenById;
  return takenById !== undefined && state.participants[takenById]?.technicianId === technicianId
    ? takenById
    : undefined;
}

/** Screenshots in the records of sessions. */
export class ScreenshotDesk {
  readonly #records: DataSource;
  readonly #book: SessionBook;
  readonly #sealer: BytesSealer;

  constructor(records: DataSource, book: SessionBook, sealer: BytesSealer) {
    this.#records = records;
    this.#book = book;
    this.#sealer = sealer;
  }

  /** Puts one there and says so in the ledger: both or neither. Again is once. Only whoever took it may. */
  async keep(technicianId: string, sessionId: string, screenshotId: string, png: Buffer): Promise<void> {
    if (!isPng(png)) throw new AppError('INVALID_REQUEST');
    const hash = createHash('sha256').update(png).digest();
    await this.#book.act(sessionId, async ({ state }, nowMs, tx) => {
      const taker = takerOf(state, technicianId, screenshotId);
      if (taker === undefined) return refuse('NOT_GRANTED');
      const rows = tx.getRepository(ScreenshotEntity);
      if (await rows.existsBy({ id: screenshotId })) return [];
      if ((await rows.countBy({ sessionId })) >= MAX_KEPT) return refuse('SESSION_TOO_LONG');
      await rows.insert({
        id: screenshotId,
        sessionId,
        keptAt: new Date(nowMs),
        sizeBytes: png.length,
        sha256: hash,
        sealed: this.#sealer.sealBytes(png),
        sealedWith: this.#sealer.secretIds[0],
      });
      return [{ type: 'screenshot/kept', by: taker, screenshotId, place: 'session', sha256: hash.toString('hex') }];
    });
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(ScreenshotEntity).delete({ sessionId });
  }

  async list(sessionId: string): Promise<KeptScreenshot[]> {
    const rows = await this.#records
      .getRepository(ScreenshotEntity)
      .find({ where: { sessionId }, order: { keptAt: 'ASC' } });
    return rows.map((row) => ({
      screenshotId: row.id,
      keptAtMs: row.keptAt.getTime(),
      sizeBytes: row.sizeBytes,
      sha256: row.sha256.toString('hex'),
    }));
  }

  /** The PNG. Throws SCREENSHOT_NOT_FOUND, also when its secret is not known any longer. */
  async read(sessionId: string, screenshotId: string): Promise<Buffer> {
    const row = await this.#records
      .getRepository(ScreenshotEntity)
      .findOne({ where: { sessionId, id: screenshotId }, select: { id: true, sealed: true } });
    const png = row && this.#sealer.openBytes(row.sealed);
    if (!png) throw new AppError('SCREENSHOT_NOT_FOUND');
    return png;
  }
}
