import type { ProgramAct, RightsBack, RunbookValues } from '@porch/core';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

/*
 * What is signed around administrator rights on a computer where nobody types a password. The desk says once for which
 * computer, session, keys and until when; the customer's side proves that it is the one of that session; the desk signs
 * each action by its hash; and the technician signs what an action is given. Each has first words of its own, so that no
 * signature fits anything else (Ed25519, RFC 8032).
 */

export interface LeaveStatement {
  readonly raiseId: string;
  readonly sessionId: string;
  readonly deviceId: string;
  readonly holderKey: string;
  readonly technicianKey: string;
  readonly untilMs: number;
}
export const leaveBytes = (leave: LeaveStatement): Uint8Array =>
  utf8ToBytes(
    [
      ...['porch rights leave 1', leave.raiseId, leave.sessionId, leave.deviceId],
      ...[leave.holderKey, leave.technicianKey, String(leave.untilMs)],
    ].join('\n'),
  );

/** What the customer's side signs of the number that was drawn for this one connection. */
export const holderProofBytes = (nonce: string, raiseId: string): Uint8Array =>
  utf8ToBytes(['porch rights holder 1', nonce, raiseId].join('\n'));

export interface RunStatement {
  readonly sessionId: string;
  readonly runId: string;
  /** SHA-256 of the action as text, hex. */
  readonly hash: string;
}
/** SHA-256 of an action as text, hex: which very text it is. */
export const hashOfText = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)));

/** What the desk signs of an action that it has approved for a session. */
export const warrantBytes = ({ sessionId, runId, hash }: RunStatement): Uint8Array =>
  utf8ToBytes(['porch rights warrant 1', sessionId, runId, hash].join('\n'));
/** What the technician signs: with these values, and no others. */
export const orderBytes = ({ sessionId, runId, hash }: RunStatement, values: RunbookValues): Uint8Array =>
  utf8ToBytes(
    ['porch rights order 1', sessionId, runId, hash, JSON.stringify(Object.entries(values).sort(byName))].join('\n'),
  );
export interface ServiceStatement {
  readonly sessionId: string;
  readonly actId: string;
  readonly act: ProgramAct;
  /** As the computer's list of services names it. */
  readonly target: string;
}
/** What the technician signs of what is done to a service of the computer: the desk's leave is for their key. */
export const serviceOrderBytes = ({ sessionId, actId, act, target }: ServiceStatement): Uint8Array =>
  utf8ToBytes(['porch rights service 1', sessionId, actId, act, target].join('\n'));
/** What the technician signs of one sign-in at the computer's next start. */
export const signInOrderBytes = (of: { sessionId: string; orderId: string; account: string }): Uint8Array =>
  utf8ToBytes(['porch rights sign-in 1', of.sessionId, of.orderId, of.account].join('\n'));
/** What the technician signs of going back to a safe point: these packages and services, and no others. */
export const backBytes = (of: { sessionId: string; orderId: string }, back: RightsBack): Uint8Array =>
  utf8ToBytes(['porch rights back 1', of.sessionId, of.orderId, ...backLines(back)].join('\n'));
const backLines = ({ packages, services }: RightsBack): string[] => [
  JSON.stringify(packages.map(({ id, from, to }) => [id, from ?? null, to ?? null])),
  JSON.stringify(services.map(({ target, runs, begins }) => [target, runs ?? null, begins ?? null])),
];
/** Whether what was signed is what would be done. */
export const isSameBack = (a: RightsBack, b: RightsBack): boolean => backLines(a).join() === backLines(b).join();
const byName = ([a]: readonly [string, string], [b]: readonly [string, string]): number => (a < b ? -1 : 1);
