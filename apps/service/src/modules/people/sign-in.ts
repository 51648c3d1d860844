import { verify } from '@node-rs/argon2';
import { AppError, type Work } from '@porch/wire';
import type { DataSource } from 'typeorm';
import { In, MoreThan } from 'typeorm';
import { randomUUID } from 'node:crypto';
import { SignInEntity, TechnicianEntity, type SignInRow } from './people-tables.ts';
import type { Technician } from './technician.ts';
import type { AskedWork } from './asked-work.ts';
import { attemptLimits, type Attempts, type Try } from './attempts.ts';
import { hashPassword } from '../../auth/passwords.ts';
import { addressKey } from '../../sockets/addresses.ts';
import { hashToken, makeToken } from '../../auth/tokens.ts';

export interface SignedInPerson {
  readonly technician: Technician;
  readonly signInId: string;
}

/** A sign-in lasts one working day. */
export const SIGN_IN_MS = 12 * 60 * 60 * 1000;
const MAX_PROGRAM_CHARACTERS = 200;

export class SignIns {
  readonly #records: DataSource;
  readonly #attempts: Attempts;
  readonly #work: AskedWork;
  /** Checked against when nobody has the address, so that both answers take as long. */
  readonly #decoy = hashPassword('nobody signs in with this');

  constructor(records: DataSource, attempts: Attempts, work: AskedWork) {
    this.#records = records;
    this.#attempts = attempts;
    this.#work = work;
  }

  async signIn(
    email: string,
    password: string,
    from: { readonly address: string; readonly program: string; readonly work?: Work | undefined },
  ): Promise<{ technician: Technician; token: string; expiresAtMs: number }> {
    const person = email.toLowerCase();
    const tries = await this.#take(person, from);
    const technician = await this.#records
      .getRepository(TechnicianEntity)
      .createQueryBuilder('t')
      .addSelect('t.passwordHash')
      .where('t.email = :person', { person })
      .getOne();
    const isRight = await verify(technician?.passwordHash ?? (await this.#decoy), password);
    if (!technician || !isRight || technician.disabledAt) throw new AppError('SIGN_IN_FAILED');
    await this.#attempts.giveBack(tries);
    const token = makeToken();
    const expiresAtMs = Date.now() + SIGN_IN_MS;
    await this.#records.getRepository(SignInEntity).insert({
      tokenHash: hashToken(token),
      id: randomUUID(),
      begunAt: new Date(),
      address: from.address,
      program: from.program.slice(0, MAX_PROGRAM_CHARACTERS),
      technicianId: technician.id,
      expiresAt: new Date(expiresAtMs),
    });
    return { technician, token, expiresAtMs };
  }

  /**
   * A stranger's wrong tries never lock anybody out: past a few, each further one at this person costs whoever makes it
   * work, and more the more there are. Throws WORK_NEEDED with what is to be done, TOO_MANY_ATTEMPTS by address.
   */
  async #take(person: string, from: { readonly address: string; readonly work?: Work | undefined }): Promise<Try[]> {
    const byAddress: Try = [attemptLimits.signInPerAddress, addressKey(from.address)];
    const done = from.work && this.#work.check(person, from.work);
    // Whatever comes of the try, its work is used up.
    if (done !== undefined) await this.#attempts.take([[attemptLimits.workOnce, done]]);
    const tries: Try[] = [
      byAddress,
      [done === undefined ? attemptLimits.signInPerPerson : attemptLimits.signInWorked, person],
    ];
    try {
      await this.#attempts.take(tries);
    } catch (error) {
      if (!(error instanceof AppError && error.code === 'WORK_NEEDED')) throw error;
      const earlier = await this.#attempts.taken(attemptLimits.signInWorked, person);
      throw new AppError('WORK_NEEDED', this.#work.ask(person, earlier));
    }
    return tries;
  }

  async whoHas(token: string | undefined): Promise<SignedInPerson> {
    if (!token) throw new AppError('SIGN_IN_NEEDED');
    const signIn = await this.#records
      .getRepository(SignInEntity)
      .createQueryBuilder('s')
      .where('s."token_hash" = :hash AND s."expires_at" > clock_timestamp()', { hash: hashToken(token) })
      .getOne();
    const technician =
      signIn && (await this.#records.getRepository(TechnicianEntity).findOneBy({ id: signIn.technicianId }));
    if (!technician || technician.disabledAt) throw new AppError('SIGN_IN_NEEDED');
    return { technician, signInId: signIn.id };
  }

  /** Ends the sign-in of this token; answers its id, so that what was opened with it ends, too. */
  async signOut(token: string | undefined): Promise<string | undefined> {
    if (!token) return undefined;
    const signIns = this.#records.getRepository(SignInEntity);
    const row = await signIns.findOneBy({ tokenHash: hashToken(token) });
    await signIns.delete({ tokenHash: hashToken(token) });
    return row?.id;
  }

  /** Those of one technician that are open, newest first. */
  of(technicianId: string): Promise<SignInRow[]> {
    return this.#records.getRepository(SignInEntity).find({
      where: { technicianId, expiresAt: MoreThan(new Date()) },
      order: { begunAt: 'DESC' },
    });
  }

  /** Ends some of a technician's own; answers those that were theirs. */
  async end(technicianId: string, ids: readonly string[]): Promise<string[]> {
    const signIns = this.#records.getRepository(SignInEntity);
    const theirs = (await signIns.findBy({ technicianId, id: In([...ids]) })).map((row) => row.id);
    if (theirs.length) await signIns.delete({ technicianId, id: In(theirs) });
    return theirs;
  }

  /** Those of these that are over: signed out elsewhere, run out, or of somebody who may not sign in any longer. */
  async ended(ids: readonly string[]): Promise<string[]> {
    if (!ids.length) return [];
    const rows = await this.#records.query<{ id: string }[]>(
      `SELECT s."id" FROM "sign_in" s JOIN "technician" t ON t."id" = s."technician_id"
        WHERE s."id" = ANY($1) AND s."expires_at" > clock_timestamp() AND t."disabled_at" IS NULL`,
      [ids],
    );
    const open = new Set(rows.map((row) => row.id));
    return ids.filter((id) => !open.has(id));
  }
}
