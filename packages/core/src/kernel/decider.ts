import type { z } from 'zod';
import type { Decision, RefusalCode } from '../decision.ts';
import type { Permission } from '../permission/permission.ts';
import type { Policy } from '../policy/policy.ts';
import type { NotedFact } from '../ability/noted-facts.ts';
import type { KernelEvent } from './events.ts';
import type { KernelState, Participant } from './state.ts';

/** What a grant's signed bytes say, once their signature fits the holder's key. */
export interface GrantStatement {
  readonly sessionId: string;
  readonly permission: Permission;
  readonly technicianSignKey: string;
  readonly technicianAgreeKey: string;
  readonly number: number;
  readonly endsAtMs: number;
}

export interface DecideContext {
  readonly sessionId: string;
  readonly nowMs: number;
  readonly policy: Policy;
  /** What this technician's team and role may ask. */
  mayAsk(technicianId: string | undefined, permission: Permission): boolean;
  /** Undefined when the signature does not fit or the bytes say nothing readable. */
  readGrant(statement: string, signature: string, holderSignKey: string): GrantStatement | undefined;
  /** Why an ability has this permission, of whatever ability, not asked just now. */
  heldBack(permission: Permission, participantId: string): RefusalCode | undefined;
  /** Whether what follows from it may be written into these records yet. */
  isWritten(permission: Permission): boolean;
  /** What a technician is called; undefined when nobody of the desk has this id. */
  nameOf(technicianId: string): string | undefined;
  /** What a colleague reads before they take over, made from the ledger so far. */
  brief(remark: string): string;
}

/** One row for each command of an idea: events, or a refusal and nothing else. */
export type Deciders<Commands extends readonly z.ZodObject[]> = {
  readonly [C in z.output<Commands[number]> as C extends { type: infer T extends string } ? T : never]: (
    s: KernelState,
    c: C,
    me: Participant,
    x: DecideContext,
  ) => Decision<KernelEvent>;
};

export const isOfDesk = (me: Participant): boolean => me.side === 'desk';

export const noteFact = (me: Participant, what: NotedFact, fact: number | undefined): KernelEvent[] => [
  { type: 'factNoted', by: me.id, what, ...(fact === undefined ? {} : { fact }) },
];
export const factOf = (c: { fact?: number | undefined }) => (c.fact === undefined ? {} : { fact: c.fact });
