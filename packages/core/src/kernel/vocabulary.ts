import { z } from 'zod';

/* Words of the trade that events and commands of the kernel share. */

export const Outcome = z.enum([
  'resolved',
  'worked-around',
  'escalated',
  'follow-up',
  'not-resolved',
  'customer-left',
  'suspected-fraud',
]);
export type Outcome = z.infer<typeof Outcome>;

/** What of the customer's own stands behind the session: decides whether they are asked who called whom. */
export const Behind = z.enum(['ticket', 'queue-entry', 'device', 'nothing']);
export type Behind = z.infer<typeof Behind>;

/** What the session is meant for: only looking, from the customer's browser, or working, with Doorstep. */
export const Aim = z.enum(['look', 'work']);
export type Aim = z.infer<typeof Aim>;
/** Whose computer the customer sits at, as they say. */
export const WhoseComputer = z.enum(['own', 'works', 'shared', 'others']);
export type WhoseComputer = z.infer<typeof WhoseComputer>;

export const TryAnswer = z.enum(['works', 'does-not', 'cannot-tell']);
export const CallAnswer = z.enum(['i-called', 'they-called']);
export const EndReason = z.enum(['technician', 'customer', 'stop', 'fraud']);
/**
 * What a customer's participant showed of who they are, bound to them alone: that they read the ticket, that the directory
 * knows them, that they are who asked for help in the queue, or that their own page started them.
 */
export const Proof = z.enum(['ticket', 'directory', 'request', 'page']);
export type Proof = z.infer<typeof Proof>;

/** Why somebody is out whose place another program has: they may do nothing more, not even report. */
export const REPLACED = 'started again elsewhere';
export const CHANGED_OVER = 'another computer took its place';
