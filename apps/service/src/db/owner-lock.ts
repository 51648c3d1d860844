import pg from 'pg';
import type { DataSource } from 'typeorm';
import { isConnectionTrouble } from './connection-trouble.ts';

/** A number that nobody else locks. */
const LOCK = 8_420_002;
/** A process that was killed holds its lock until the database notices; a start waits so long for it. */
const WAIT_MS = 15_000;
const AGAIN_MS = 500;

/** Grows with every process that serves these records: who speaks for an older one is told apart. */
export async function nextOwnerEpoch(records: DataSource): Promise<number> {
  const [rows] = await records.query<[{ epoch: number }[], number]>(
    `UPDATE "session_owner" SET "epoch" = "epoch" + 1 WHERE "id" = 1 RETURNING "epoch"`,
  );
  return rows[0]?.epoch ?? 0;
}

/** Another process serves these records. Sessions live in one process, so a second one would answer for half of them. */
export class SecondProcess extends Error {
  override readonly name = 'SecondProcess';

  constructor() {
    super('another process serves these records already; one at a time is supported: stop it first');
  }
}

/**
 * Holds one lock of the database for as long as this process serves it, on a connection of its own. A connection that is
 * lost takes it anew; when somebody else has it by then, `onLost` hears so, once.
 */
export class OwnerLock {
  readonly #url: string;
  readonly #onLost: () => void;
  #client: pg.Client | undefined;
  #isClosed = false;
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(url: string, onLost: () => void) {
    this.#url = url;
    this.#onLost = onLost;
  }

  /** Throws SecondProcess when another one keeps it, and what stood in the way when the database was not reached. */
  async take(): Promise<void> {
    const giveUpAtMs = performance.now() + WAIT_MS;
    for (;;) {
      let trouble: Error | undefined;
      try {
        if (await this.#try()) return;
      } catch (error) {
        // One connection that is not opened in time is no reason not to start.
        if (!isConnectionTrouble(error)) throw error;
        trouble = error as Error;
      }
      if (performance.now() > giveUpAtMs) throw trouble ?? new SecondProcess();
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    clearTimeout(this.#timer);
    await this.#client?.end().catch(() => undefined); // Gone with its server: then it holds nothing, either.
  }

  async #try(): Promise<boolean> {
    const client = new pg.Client({ connectionString: this.#url, keepAlive: true, connectionTimeoutMillis: 3_000 });
    client.on('error', () => undefined); // `end` follows, and does the work.
    await client.connect();
    const { rows } = await client.query<{ is_ours: boolean }>('SELECT pg_try_advisory_lock($1) AS is_ours', [LOCK]);
    if (!rows[0]?.is_ours) {
      await client.end();
      return false;
    }
    this.#client = client;
    client.on('end', () => this.#again());
    return true;
  }

  #again(): void {
    if (this.#isClosed) return;
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => {
      this.take().catch((error: unknown) => {
        if (isConnectionTrouble(error)) this.#again();
        else this.#onLost();
      });
    }, AGAIN_MS);
  }
}
