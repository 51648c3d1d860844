import { ledger } from '@porch/words/ledger';
import { isOver, purposeForCustomer, type Policy, ruleOfLabel } from '@porch/core';
import type { DoorView } from '@porch/wire';
import type { z } from 'zod';
import type { OpenSession } from '../../module/open-session.ts';
import type { ReleaseShelf } from '../downloads/release-shelf.ts';
import type { PolicyOf } from '../sessions/policy-of.ts';
import type { DoorPass, DoorPasses } from '../passes/door-passes.ts';

export interface DoorViewParts {
  readonly policyOf: PolicyOf;
  readonly passes: DoorPasses;
  /** The release of Doorstep that is handed out; undefined: none. */
  readonly shelf: ReleaseShelf | undefined;
  publicUrl(): string;
}

/** What a customer sees of a session before and while they are in. */
export async function doorViewOf(
  session: OpenSession,
  pass: DoorPass,
  { policyOf, passes, shelf, publicUrl }: DoorViewParts,
): Promise<z.infer<typeof DoorView>> {
  const mayStartDoorstep = pass.role === 'customer-page' && !isOver(session.state);
  return {
    ...seenAtTheDoor(session, policyOf(session.state), pass),
    ...(shelf
      ? {
          download: {
            version: shelf.manifest.version,
            publisher: shelf.manifest.publisher,
            sizeBytes: shelf.manifest.sizeBytes,
          },
        }
      : {}),
    ...(pass.role === 'doorstep' ? { keyHalf: passes.keyHalf(pass) } : {}),
    doorstepLink: mayStartDoorstep ? `${publicUrl()}/join/${await passes.pageLink(pass)}` : '',
  };
}

/** Who the customer is, is told to whoever showed that they are that person; a code or a link alone says who asks, and why. */
function seenAtTheDoor(
  { id, state }: OpenSession,
  policy: Policy,
  { proof }: DoorPass,
): Omit<z.infer<typeof DoorView>, 'doorstepLink'> {
  const isKnown = proof !== null;
  const careful = ruleOfLabel(policy.carefulLabels, state.deviceLabel);
  return {
    sessionId: id,
    technicianName: state.technicianName ?? '',
    deskName: policy.deskName,
    deskPhone: policy.deskPhone,
    ...(state.ticketRef ? { ticketRef: state.ticketRef } : {}),
    purpose: purposeForCustomer(state, ledger[state.language]),
    behind: state.behind,
    language: state.language,
    customerName: isKnown ? (state.customerName ?? '') : '',
    customerAddress: isKnown ? (state.customerAddress ?? '') : '',
    phase: state.phase.name,
    noticeVersion: policy.noticeVersion,
    notice: { ...policy.notice },
    controlNeedsComparedWords: policy.controlNeedsComparedWords,
    standingConsentDays: policy.standingConsentDays,
    maxClipboardBytes: policy.maxClipboardBytes,
    refusedFileKinds: [...policy.refusedFileKinds],
    // Of a desk's rules a customer's program needs the one for its own device.
    carefulLabels: careful ? [{ label: careful.label, isNever: careful.isNever }] : [],
    maxSafePointBytes: policy.maxSafePointBytes,
    rightsMs: policy.rightsMs,
    untouchedPrograms: [...policy.untouchedPrograms],
    maxFileBytes: policy.maxFileBytes,
    awayAfterMs: policy.awayAfterMs,
  };
}
