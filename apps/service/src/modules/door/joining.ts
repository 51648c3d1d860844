import { isOver, readCode, readSecondNumber, type PolicyFor } from '@porch/core';
import { AppError, type JoinBody } from '@porch/wire';
import type { DataSource, EntityManager } from 'typeorm';
import type { z } from 'zod';
import { inTransaction } from '../../db/data-source.ts';
import type { OpenSession } from '../../module/open-session.ts';
import { addressKey } from '../../sockets/addresses.ts';
import type { CodeDesk } from '../codes/code-desk.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import { checkOpen, joinedBy, type DoorPass, type DoorPasses, type Origin } from '../passes/door-passes.ts';
import { attemptLimits, type Attempts, type Try } from '../people/attempts.ts';
import type { SessionBook } from '../sessions/session-book.ts';

/** Every refused try at a code takes as long as this, so that the time tells nothing. */
const REFUSAL_MS = 150;
const isOutdated = (error: unknown): boolean =>
  error instanceof AppError && ['CODE_EXPIRED', 'CODE_USED', 'CODE_WITHDRAWN'].includes(error.code);

type Seat = z.infer<typeof JoinBody>['as'];
const roleOf = (as: Seat) => (as === 'page' ? 'customer-page' : 'doorstep');

export interface JoiningParts {
  readonly records: DataSource;
  readonly book: SessionBook;
  readonly codes: CodeDesk;
  readonly passes: DoorPasses;
  readonly invitations: InvitationDesk;
  readonly attempts: Attempts;
  readonly policyFor: PolicyFor;
}

/** How a customer's program comes to its session: with a code, or with a link. */
export class Joining {
  readonly #parts: JoiningParts;

  constructor(parts: JoiningParts) {
    this.#parts = parts;
  }

  /**
   * `from.pass`: what the same browser came in with before. Hands back the session and a pass of the program's own: the
   * same one to whoever tries again, since they never heard of it. Throws CODE_*, INVITATION_*, SESSION_ENDED,
   * TOO_MANY_ATTEMPTS.
   */
  async join(
    { code, secondNumber, link, as, tryId }: z.infer<typeof JoinBody>,
    from: { readonly address: string; readonly pass: DoorPass | null },
  ): Promise<{ session: OpenSession; token: string }> {
    const { records, book, passes } = this.#parts;
    const cameBy = code ?? link;
    if (cameBy === undefined) throw new AppError('INVALID_REQUEST');
    const role = roleOf(as);
    const token = passes.tokenFor(cameBy, role, tryId);
    /** What let somebody in is used, and they are in, in one step: neither is ever without the other. */
    const enter = (use: (tx: EntityManager) => Promise<Origin>) =>
      inTransaction(records, async (tx) => {
        const known = await passes.admittedTo(tx, token);
        if (known !== undefined) return known;
        const origin = await use(tx);
        await passes.admit(tx, token, origin, role);
        return origin.sessionId;
      });
    const sessionId =
      code !== undefined
        ? await this.#byCode(code, secondNumber, as, from.address, enter)
        : await enter((tx) => this.#byLink(tx, cameBy, as, from.pass));
    const session = await book.open(sessionId);
    if (isOver(session.state)) throw new AppError('SESSION_ENDED');
    return { session, token };
  }

  async #byCode(
    code: string,
    secondNumber: string | undefined,
    as: Seat,
    address: string,
    enter: (use: (tx: EntityManager) => Promise<Origin>) => Promise<string>,
  ): Promise<string> {
    const startedAt = performance.now();
    const { codes, attempts, policyFor } = this.#parts;
    const reading = readCode(code);
    // The check digit: said at once, and no attempt is counted, since nobody learns anything by it.
    if (reading.kind !== 'code') throw new AppError(reading.kind === 'mistyped' ? 'CODE_MISTYPED' : 'INVALID_REQUEST');
    const second = secondNumber === undefined ? undefined : readSecondNumber(secondNumber);
    if (secondNumber !== undefined && second === undefined) throw new AppError('CODE_SECOND_NEEDED');
    const ofService = second === undefined ? attemptLimits.codeAlonePerService : attemptLimits.codePairPerService;
    const tries: Try[] = [
      [ofService, 'everybody'],
      [attemptLimits.codePerAddress, addressKey(address)],
    ];
    await attempts.take(tries);
    try {
      const sessionId = await enter(async (tx) => {
        const used = await codes.use(tx, reading.digits, as, second);
        if (policyFor().isCodeSingleUse) await codes.withdraw(tx, used);
        const { sessionId, expiresAt } = used;
        return { sessionId, way: 'code', invitationId: null, parentHash: null, proof: null, expiresAt };
      });
      await attempts.giveBack(tries);
      return sessionId;
    } catch (error) {
      // Whoever has a code that was right once is not guessing.
      if (isOutdated(error)) await attempts.giveBack(tries.slice(0, 1));
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, REFUSAL_MS - (performance.now() - startedAt))));
      throw error;
    }
  }

  async #byLink(tx: EntityManager, link: string, as: Seat, known: DoorPass | null): Promise<Origin> {
    const { passes, invitations } = this.#parts;
    const pass = await passes.findAny(link, tx);
    if (pass?.role !== 'invitation') throw new AppError('INVITATION_UNKNOWN');
    if (pass.expiresAt.getTime() <= Date.now()) throw new AppError('INVITATION_EXPIRED');
    const isBack = isInAlready(known, pass.sessionId, roleOf(as));
    const { invitationId } = pass;
    // What a page made for its own Doorstep was counted when the page came in.
    const isCounted = invitationId !== null && pass.parentHash === null && !isBack;
    if (isCounted) await invitations.use(tx, invitationId);
    checkOpen(pass, isBack);
    await passes.useUp(tx, pass);
    return joinedBy(pass);
  }
}

/** Whoever comes back to the session with the pass they have is no new use of what they were asked in by. */
const isInAlready = (pass: DoorPass | null, sessionId: string, role: DoorPass['role']): boolean =>
  pass?.sessionId === sessionId &&
  pass.role === role &&
  pass.participantId !== null &&
  pass.expiresAt.getTime() > Date.now();
