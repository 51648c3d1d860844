import type { Proof } from '@porch/core';
import { AppError } from '@porch/wire';
import { IsNull, LessThan, type DataSource, type EntityManager } from 'typeorm';
import { hashToken, makeToken, type CodeSecrets } from '../../auth/tokens.ts';
import { DoorPassEntity, type DoorPassRow } from './pass-table.ts';

/** A pass as it stands. */
export type DoorPass = Readonly<DoorPassRow>;

/** How long a program that has come in may come back to its session, and read the copy afterwards. */
export const PASS_MS = 7 * 24 * 60 * 60 * 1000;
/** Doorstep may deliver for so long after the end what was decided while its line was down. */
export const DELIVERY_MS = 60 * 60 * 1000;
/** How long a downloaded Doorstep knows its session, and it joins once. */
const DOWNLOAD_LINK_MS = 15 * 60_000;
/** Ways that lead from a customer's own page to their own Doorstep: these stay open when the customer has accepted. */
const ownWays = ['page-link', 'download'] as const;
/** On a shared computer the copy can be read and kept for so long after the end. */
const SHARED_RECEIPT_MS = 10 * 60_000;
/** In one session, of all kinds. A customer who needs more is no customer. */
const MAX_PASSES_PER_SESSION = 300;

type Role = DoorPass['role'];
/** What a pass opens, by its role. What is not here is refused. */
const opens = {
  join: ['invitation'],
  look: ['customer-page', 'doorstep'],
  connect: ['customer-page', 'doorstep'],
  download: ['customer-page'],
  keepDevice: ['doorstep'],
  tellStep: ['doorstep'],
  copy: ['customer-page', 'doorstep'],
} as const satisfies Record<string, readonly Role[]>;
export type Act = keyof typeof opens;

/** Where a pass comes from: an invitation or a code, with its end, or another pass. */
export interface Origin {
  readonly sessionId: string;
  readonly way: string;
  readonly invitationId: string | null;
  readonly parentHash: Buffer | null;
  readonly proof: Proof | null;
  readonly expiresAt: Date;
}

/** What lets customers' programs in, as it stands in the records; only hashes are kept. */
export class DoorPasses {
  readonly #records: DataSource;
  readonly #secrets: CodeSecrets;

  constructor(records: DataSource, secrets: CodeSecrets) {
    this.#records = records;
    this.#secrets = secrets;
  }

  /** The pass behind a token, if it is one for this. Throws INVITATION_UNKNOWN, PASS_NOT_FOR_THIS. */
  async find(token: string, act: Act): Promise<DoorPass> {
    const pass = await this.#records
      .getRepository(DoorPassEntity)
      .createQueryBuilder('p')
      .where('p."token_hash" = :hash AND p."expires_at" > clock_timestamp()', { hash: hashToken(token) })
      .getOne();
    if (!pass) throw new AppError('INVITATION_UNKNOWN');
    if (!(opens[act] as readonly Role[]).includes(pass.role)) throw new AppError('PASS_NOT_FOR_THIS');
    return pass;
  }

  /** As it was left, also when it is over: to say why. */
  findAny(token: string, tx: EntityManager = this.#records.manager): Promise<DoorPass | null> {
    return tx.getRepository(DoorPassEntity).findOneBy({ tokenHash: hashToken(token) });
  }

  /** A single-use pass is gone with its use, in one step, so that two who come at once are not both let in. */
  async useUp(tx: EntityManager, pass: DoorPass): Promise<void> {
    if (!pass.isSingleUse) return;
    const { affected } = await tx.getRepository(DoorPassEntity).delete({ tokenHash: pass.tokenHash });
    if (!affected) throw new AppError('INVITATION_USED_UP');
  }

  /** What a program's own pass will be: at each try the same, where it names its try. */
  tokenFor(cameBy: string, role: Exclude<Role, 'invitation'>, tryId: string | undefined): string {
    return tryId === undefined ? makeToken() : this.#secrets.derive(`came in:${role}:${tryId}:${cameBy}`);
  }

  /** A program's own pass: it lasts as what it came from until it is in, and with its session from then on. */
  async admit(tx: EntityManager, token: string, origin: Origin, role: Exclude<Role, 'invitation'>): Promise<void> {
    await this.#insert(tx, token, { ...origin, role, isSingleUse: false });
  }

  /** Which session an earlier try with this token led into; undefined when none did. */
  async admittedTo(tx: EntityManager, token: string): Promise<string | undefined> {
    const pass = await tx.getRepository(DoorPassEntity).findOneBy({ tokenHash: hashToken(token) });
    return pass && pass.expiresAt.getTime() > Date.now() ? pass.sessionId : undefined;
  }

  /** The page's link for its own Doorstep: the same at each look. */
  async pageLink(page: DoorPass): Promise<string> {
    const token = this.#secrets.derive(`page-link:${page.tokenHash.toString('hex')}`);
    await this.#insert(this.#records.manager, token, {
      ...childOf(page),
      role: 'invitation',
      way: 'page-link',
      isSingleUse: false,
    });
    return token;
  }

  /** What a program's kept keys are sealed with besides what lies beside them: the same as long as there is a pass. */
  keyHalf({ sessionId }: DoorPass): string {
    return this.#secrets.derive(`kept-keys:${sessionId}`);
  }

  async download(page: DoorPass): Promise<string> {
    const token = makeToken();
    await this.#insert(this.#records.manager, token, {
      ...childOf(page),
      role: 'invitation',
      way: 'download',
      isSingleUse: true,
      expiresAt: new Date(Math.min(page.expiresAt.getTime(), Date.now() + DOWNLOAD_LINK_MS)),
    });
    return token;
  }

  /** What an invitation's token opens, written down with it. */
  async invite(
    tx: EntityManager,
    token: string,
    about: Pick<Origin, 'sessionId' | 'way' | 'proof' | 'expiresAt'> & { readonly invitationId: string },
  ): Promise<void> {
    await tx.getRepository(DoorPassEntity).insert({
      ...about,
      tokenHash: hashToken(token),
      role: 'invitation',
      parentHash: null,
      participantId: null,
      isClosed: false,
      isSingleUse: false,
    });
  }

  /** An invitation works until then, for whoever has not come in by it. */
  async extend(tx: EntityManager, invitationId: string, expiresAt: Date): Promise<void> {
    await tx.getRepository(DoorPassEntity).update({ invitationId, participantId: IsNull() }, { expiresAt });
  }

  /** For whom a technician has taken out of the queue: the same at each look. */
  async fromQueue(entry: { id: string; sessionId: string; isConfirmed: boolean }): Promise<string> {
    const token = this.#secrets.derive(`queue:${entry.id}`);
    await this.#insert(this.#records.manager, token, {
      sessionId: entry.sessionId,
      role: 'invitation',
      way: 'queue',
      invitationId: null,
      parentHash: null,
      // Whoever has the entry's own token is who asked for help; the directory vouches for some of them by name.
      proof: entry.isConfirmed ? 'directory' : 'request',
      isSingleUse: false,
      expiresAt: new Date(Date.now() + PASS_MS),
    });
    return token;
  }

  /** For the device that a technician visits. */
  async forDevice(sessionId: string): Promise<string> {
    const token = makeToken();
    await this.#insert(this.#records.manager, token, {
      sessionId,
      role: 'doorstep',
      way: 'device',
      invitationId: null,
      parentHash: null,
      proof: null,
      isSingleUse: false,
      expiresAt: new Date(Date.now() + PASS_MS),
    });
    return token;
  }

  /** Their program is in. Throws INVITATION_UNKNOWN when the pass was taken back meanwhile. */
  async entered(tx: EntityManager, tokenHash: Buffer, participantId: string): Promise<void> {
    const [rows] = await tx.query<[unknown[], number]>(
      `UPDATE "door_pass" SET "participant_id" = $2, "expires_at" = greatest("expires_at", clock_timestamp() + make_interval(secs => $3)) WHERE "token_hash" = $1 AND "expires_at" > clock_timestamp() RETURNING 1`,
      [tokenHash, participantId, PASS_MS / 1000],
    );
    if (!rows.length) throw new AppError('INVITATION_UNKNOWN');
  }

  /** The customer has accepted: their two seats are taken, but for the way from their own page to their own Doorstep. */
  async close(tx: EntityManager, sessionId: string): Promise<void> {
    await tx
      .getRepository(DoorPassEntity)
      .createQueryBuilder()
      .update()
      .set({ isClosed: true })
      .where('"session_id" = :sessionId AND role = :role AND way NOT IN (:...ownWays)', {
        sessionId,
        role: 'invitation',
        ownWays,
      })
      .execute();
    await this.#dropUnentered(tx, `"session_id" = $1`, sessionId);
  }

  /** The session is over: nothing leads into it any longer. Who was in may deliver what was decided, and read the copy. */
  async endSession(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(DoorPassEntity).delete({ sessionId, role: 'invitation' });
    await this.#dropUnentered(tx, `"session_id" = $1`, sessionId);
    await tx.query(
      `UPDATE "door_pass" SET "expires_at" = least("expires_at", clock_timestamp() + make_interval(secs => $2)) WHERE "session_id" = $1 AND "role" = 'doorstep'`,
      [sessionId, DELIVERY_MS / 1000],
    );
  }

  /** On a computer that others use nothing leads back into the session; the copy stays for a moment. */
  async endShared(tx: EntityManager, sessionId: string, nowMs: number): Promise<void> {
    await tx.getRepository(DoorPassEntity).update({ sessionId }, { expiresAt: new Date(nowMs + SHARED_RECEIPT_MS) });
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(DoorPassEntity).delete({ sessionId });
  }

  /** An invitation was withdrawn: what hangs on it goes with it; who is in already stays in. */
  async withdraw(tx: EntityManager, invitationId: string): Promise<void> {
    await tx.query(
      `UPDATE "door_pass" SET "is_closed" = true WHERE "invitation_id" = $1 AND "role" = 'invitation' AND "parent_hash" IS NULL`,
      [invitationId],
    );
    await this.#dropUnentered(tx, `"invitation_id" = $1`, invitationId);
  }

  async sweep(): Promise<void> {
    await this.#records.getRepository(DoorPassEntity).delete({ expiresAt: LessThan(new Date()) });
  }

  async #dropUnentered(tx: EntityManager, where: string, value: string): Promise<void> {
    await tx.query(
      `DELETE FROM "door_pass" WHERE ${where} AND "participant_id" IS NULL AND "way" <> 'device' AND "role" <> 'invitation'`,
      [value],
    );
  }

  async #insert(
    manager: EntityManager,
    token: string,
    pass: Origin & Pick<DoorPass, 'role' | 'isSingleUse'>,
  ): Promise<void> {
    const passes = manager.getRepository(DoorPassEntity);
    // The same again is no growth: who is in looks at the door as often as they like.
    if (await passes.existsBy({ tokenHash: hashToken(token) })) return;
    if ((await passes.countBy({ sessionId: pass.sessionId })) >= MAX_PASSES_PER_SESSION)
      throw new AppError('TOO_MANY_ATTEMPTS');
    await passes
      .createQueryBuilder()
      .insert()
      .values({ ...pass, tokenHash: hashToken(token), participantId: null, isClosed: false })
      .orIgnore()
      .execute();
  }
}

/** The same wherever a pass is made from another: its invitation, its end, and who it is for. */
function childOf(pass: DoorPass): Omit<Origin, 'way'> {
  return {
    sessionId: pass.sessionId,
    invitationId: pass.invitationId,
    parentHash: pass.tokenHash,
    proof: pass.proof ?? 'page',
    expiresAt: pass.expiresAt,
  };
}

/** A pass made by joining with another one. */
export const joinedBy = (pass: DoorPass): Origin => ({
  sessionId: pass.sessionId,
  way: pass.way,
  invitationId: pass.invitationId,
  parentHash: pass.tokenHash,
  proof: pass.proof,
  expiresAt: pass.expiresAt,
});

/** Whether nobody else comes in by it, since the customer has accepted. */
export function checkOpen(pass: DoorPass, isInAlready: boolean): void {
  if (pass.isClosed && !isInAlready) throw new AppError('INVITATION_USED_UP');
}
