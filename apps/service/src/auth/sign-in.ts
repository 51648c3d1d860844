import { verify } from '@node-rs/argon2';
import { AppError } from '@porch/wire';
import type { DataSource } from 'typeorm';
import { SignInEntity, TechnicianEntity, type TechnicianRow } from '../db/entities.ts';
import { attemptLimits, type Attempts } from './attempts.ts';
import { hashPassword } from './passwords.ts';
import { hashToken, makeToken } from './tokens.ts';

/** A sign-in lasts one working day. */
export const SIGN_IN_MS = 12 * 60 * 60 * 1000;

export class SignIns {
  readonly #records: DataSource;
  readonly #attempts: Attempts;
  /** Checked against when nobody has the address, so that both answers take as long. */
  readonly #decoy = hashPassword('nobody signs in with this');

  constructor(records: DataSource, attempts: Attempts) {
    this.#records = records;
    this.#attempts = attempts;
  }

  async signIn(
    email: string,
    password: string,
    address: string,
  ): Promise<{ technician: TechnicianRow; token: string; expiresAtMs: number }> {
    const person = email.toLowerCase();
    const tries = [
      [attemptLimits.signInPerAddress, address],
      [attemptLimits.signInPerPerson, person],
    ] as const;
    await this.#attempts.take(tries);
    const technician = await this.#records.getRepository(TechnicianEntity).findOneBy({ email: person });
    const isRight = await verify(technician?.passwordHash ?? (await this.#decoy), password);
    if (!technician || !isRight) throw new AppError('SIGN_IN_FAILED');
    await this.#attempts.giveBack(tries);
    const token = makeToken();
    const expiresAtMs = Date.now() + SIGN_IN_MS;
    await this.#records
      .getRepository(SignInEntity)
      .insert({ tokenHash: hashToken(token), technicianId: technician.id, expiresAt: new Date(expiresAtMs) });
    return { technician, token, expiresAtMs };
  }

  async whoHas(token: string | undefined): Promise<TechnicianRow> {
    if (!token) throw new AppError('SIGN_IN_NEEDED');
    const technician = await this.#records
      .getRepository(TechnicianEntity)
      .createQueryBuilder('t')
      .innerJoin('sign_in', 's', 's."technician_id" = t."id"')
      .where('s."token_hash" = :hash AND s."expires_at" > clock_timestamp()', { hash: hashToken(token) })
      .getOne();
    if (!technician) throw new AppError('SIGN_IN_NEEDED');
    return technician;
  }

  async signOut(token: string | undefined): Promise<void> {
    if (token) await this.#records.getRepository(SignInEntity).delete({ tokenHash: hashToken(token) });
  }
}
