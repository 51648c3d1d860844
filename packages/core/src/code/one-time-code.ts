import { refuse, type Decision } from '../decision.ts';
import { transitionBy } from '../transition.ts';

/** The two programs of one customer: their page and their Doorstep. Each may come in once with a code. */
export type CodeSeat = 'page' | 'doorstep';

export type CodeState =
  | { name: 'free'; sessionId: string; expiresAtMs: number }
  | { name: 'used'; sessionId: string; expiresAtMs: number; seats: readonly CodeSeat[] }
  | { name: 'withdrawn'; sessionId: string };

export type CodeEvent = { type: 'codeUsed'; seat: CodeSeat } | { type: 'codeWithdrawn' } | { type: 'codeClosed' };

const closed = ({ sessionId, expiresAtMs }: { sessionId: string; expiresAtMs: number }): CodeState => ({
  name: 'used',
  sessionId,
  expiresAtMs,
  seats: ['page', 'doorstep'],
});

export const evolveCode = transitionBy<CodeState, CodeEvent>({
  free: {
    codeUsed: (s, e) => ({ ...s, name: 'used', seats: [e.seat] }),
    codeClosed: closed,
    codeWithdrawn: (s) => ({ name: 'withdrawn', sessionId: s.sessionId }),
  },
  used: {
    codeUsed: (s, e) => ({ ...s, seats: [...s.seats, e.seat] }),
    codeClosed: closed,
    codeWithdrawn: (s) => ({ name: 'withdrawn', sessionId: s.sessionId }),
  },
  withdrawn: {},
});

/** A second customer with the same code is refused: the seat they want is taken. */
export function decideUseCode(state: CodeState, seat: CodeSeat, nowMs: number): Decision<CodeEvent> {
  if (state.name === 'withdrawn') return refuse('CODE_WITHDRAWN');
  if (nowMs >= state.expiresAtMs) return refuse('CODE_EXPIRED');
  if (state.name === 'used' && state.seats.includes(seat)) return refuse('CODE_USED');
  return [{ type: 'codeUsed', seat }];
}

/** The customer has accepted: whoever overheard the code comes too late, for either seat. */
export function decideCloseCode(state: CodeState): readonly CodeEvent[] {
  return state.name === 'withdrawn' ? [] : [{ type: 'codeClosed' }];
}

/** Withdrawing is a fact: a code that is gone already stays gone. */
export function decideWithdrawCode(state: CodeState): readonly CodeEvent[] {
  return state.name === 'withdrawn' ? [] : [{ type: 'codeWithdrawn' }];
}
