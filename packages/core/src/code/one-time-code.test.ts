import { describe, expect, it } from 'vitest';
import {
  decideLeaveEntry,
  decideTakeEntry,
  evolveQueueEntry,
  type QueueEntryEvent,
  type QueueEntryState,
} from '../queue/queue-entry.ts';
import { decideUseCode, decideWithdrawCode, evolveCode, type CodeEvent, type CodeState } from './one-time-code.ts';

const sessionId = 's';
const codes: CodeState[] = [
  { name: 'free', sessionId, expiresAtMs: 100 },
  { name: 'used', sessionId, expiresAtMs: 100, seats: ['page'] },
  { name: 'withdrawn', sessionId },
];

describe('a one-time code', () => {
  it('has one place for a page and one for Doorstep, and an honest word for each refusal', () => {
    const answers = codes.map((state) => [
      decideUseCode(state, 'page', 50),
      decideUseCode(state, 'doorstep', 50),
      decideUseCode(state, 'page', 100),
    ]);
    expect(answers).toEqual([
      [[{ type: 'codeUsed', seat: 'page' }], [{ type: 'codeUsed', seat: 'doorstep' }], { refused: 'CODE_EXPIRED' }],
      [{ refused: 'CODE_USED' }, [{ type: 'codeUsed', seat: 'doorstep' }], { refused: 'CODE_EXPIRED' }],
      [{ refused: 'CODE_WITHDRAWN' }, { refused: 'CODE_WITHDRAWN' }, { refused: 'CODE_WITHDRAWN' }],
    ]);
  });
  it('stays withdrawn, whatever comes after', () => {
    const events: CodeEvent[] = [{ type: 'codeUsed', seat: 'page' }, { type: 'codeWithdrawn' }];
    for (const event of events) expect(evolveCode({ name: 'withdrawn', sessionId }, event)).toBeUndefined();
    expect(decideWithdrawCode({ name: 'withdrawn', sessionId })).toEqual([]);
  });
});

describe('a queue entry', () => {
  const waiting: QueueEntryState = { name: 'waiting', sinceMs: 1 };
  const take: QueueEntryEvent = { type: 'entryTaken', technicianId: 'pim', sessionId };
  it('is taken once, and left only while it waits', () => {
    const taken = evolveQueueEntry(waiting, take);
    expect(taken?.name).toBe('taken');
    expect(decideTakeEntry(taken ?? waiting, 'rune', 'other')).toEqual({ refused: 'ENTRY_NOT_WAITING' });
    expect(decideLeaveEntry(taken ?? waiting)).toEqual([]);
    expect(evolveQueueEntry(waiting, { type: 'entryLeft' })?.name).toBe('left');
    expect(evolveQueueEntry({ name: 'left', sinceMs: 1 }, take)).toBeUndefined();
  });
});
