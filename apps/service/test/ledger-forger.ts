import { appendRow, ZERO_HASH } from '@porch/core';
import type { House } from '@porch/testkit';

interface Row {
  seq: number;
  header: Buffer;
  salt: Buffer;
  body: Buffer;
  body_hash: Buffer;
  hash: Buffer;
}

/** An enemy with the database in hand: edits rows, and makes the chain behind them agree again. */
export class LedgerForger {
  readonly #house: House;
  readonly #id: string;

  constructor(house: House, id: string) {
    this.#house = house;
    this.#id = id;
  }

  read(): Promise<Row[]> {
    return this.#house.query<Row>(
      `SELECT * FROM "ledger_row" WHERE "session_id" = $1 AND "chain" = 'session' ORDER BY "seq"`,
      [this.#id],
    );
  }

  async edit(seq: number, change: (body: string) => string): Promise<void> {
    const row = (await this.read()).find((r) => r.seq === seq);
    if (row) await this.#write({ ...row, body: Buffer.from(change(row.body.toString('utf8'))) });
  }

  async recomputeFrom(seq: number): Promise<void> {
    const rows = await this.read();
    let previous: Uint8Array = rows[seq - 2]?.hash ?? ZERO_HASH;
    for (const row of rows.slice(seq - 1)) {
      const made = appendRow(
        previous,
        row.seq,
        JSON.parse(row.header.toString('utf8')) as object,
        JSON.parse(row.body.toString('utf8')) as object,
        row.salt,
      );
      await this.#write({ ...row, body_hash: Buffer.from(made.bodyHash), hash: Buffer.from(made.hash) });
      previous = made.hash;
    }
  }

  async restore(rows: readonly Row[]): Promise<void> {
    for (const row of rows) await this.#write(row);
  }

  async #write(row: Row): Promise<void> {
    await this.#house.query(
      `UPDATE "ledger_row" SET "body" = $3, "body_hash" = $4, "hash" = $5 WHERE "session_id" = $1 AND "seq" = $2 AND "chain" = 'session'`,
      [this.#id, row.seq, row.body, row.body_hash, row.hash],
    );
  }
}
