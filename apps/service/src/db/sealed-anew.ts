import { In, type DataSource, type EntitySchema } from 'typeorm';

/** Seals what lies in the records. */
export interface BytesSealer {
  sealBytes(plain: Uint8Array): Buffer;
  openBytes(sealed: Buffer): Buffer | undefined;
  /** What tells the secrets that are known apart, the newest first. */
  readonly secretIds: readonly [Buffer, ...Buffer[]];
}
/** Something sealed in the records of a session. */
export interface SealedRow {
  id: string;
  sessionId: string;
  keptAt: Date;
  sizeBytes: number;
  sha256: Buffer;
  /** Read only by who asks for it: lists have no use for it. */
  sealed: Buffer;
  /** Which of the service's secrets: not the secret, and of no use without it. */
  sealedWith: Buffer;
}
export const sealedColumns = {
  id: { type: 'uuid', primary: true },
  sessionId: { type: 'uuid', name: 'session_id' },
  keptAt: { type: 'timestamptz', name: 'kept_at' },
  sizeBytes: { type: 'int', name: 'size_bytes' },
  sha256: { type: 'bytea' },
  sealed: { type: 'bytea', select: false },
  sealedWith: { type: 'bytea', name: 'sealed_with' },
} as const;

/** As many as may lie in memory between two pauses. */
const SEALED_ANEW_AT_ONCE = 10;
const NOBODYS = Buffer.alloc(0);

/** Seals the rows of one table anew, so that an older secret may go with the next rotation. */
export class SealedAnew {
  readonly #records: DataSource;
  readonly #table: EntitySchema<SealedRow>;
  readonly #sealer: BytesSealer;
  /** Nothing is sealed with an older secret any longer: once it is so, it stays so until the next start. */
  #isAllNewest = false;

  constructor(records: DataSource, table: EntitySchema<SealedRow>, sealer: BytesSealer) {
    this.#records = records;
    this.#table = table;
    this.#sealer = sealer;
  }

  /** Some of what an older secret sealed. Hands back how many were done. */
  async round(): Promise<number> {
    const [newest, ...older] = this.#sealer.secretIds;
    if (!older.length || this.#isAllNewest) return 0;
    const rows = this.#records.getRepository(this.#table);
    const old = await rows.find({
      where: { sealedWith: In(older) },
      select: { id: true, sealed: true },
      take: SEALED_ANEW_AT_ONCE,
    });
    for (const { id, sealed } of old) {
      const plain = this.#sealer.openBytes(sealed);
      // Changed by somebody: it stays as it is, is never opened, and does not hold the others up.
      await rows.update(
        { id },
        plain ? { sealed: this.#sealer.sealBytes(plain), sealedWith: newest } : { sealedWith: NOBODYS },
      );
    }
    this.#isAllNewest = !old.length;
    return old.length;
  }
}
