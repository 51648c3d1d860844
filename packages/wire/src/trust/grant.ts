import { Permission, type GrantStatement } from '@porch/core';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { z } from 'zod';
import { isSignedBy, signBytes, type ParticipantKeys } from './keys.ts';

/** The first words of what is signed, so that a grant's signature fits nothing else. */
const CONTEXT = 'porch grant 1\n';

const Statement = z.strictObject({
  sessionId: z.uuid(),
  permission: Permission,
  technicianSignKey: z.string(),
  technicianAgreeKey: z.string(),
  number: z.int().min(1),
  endsAtMs: z.number(),
});

/** A signed leave: the statement's exact characters are what is signed and what is kept in the event. */
export interface SignedGrant {
  readonly statement: string;
  readonly signature: string;
}

export function signGrant(keys: ParticipantKeys, grant: GrantStatement): SignedGrant {
  const statement = JSON.stringify(Statement.parse(grant));
  return { statement, signature: signBytes(keys, utf8ToBytes(CONTEXT + statement)) };
}

/** Undefined when the signature does not fit the holder's key, or the statement says nothing we know. */
export function readGrant(statement: string, signature: string, holderSignKey: string): GrantStatement | undefined {
  if (!isSignedBy(holderSignKey, utf8ToBytes(CONTEXT + statement), signature)) return undefined;
  try {
    return Statement.parse(JSON.parse(statement));
  } catch {
    // Signed, but not a statement of this version: it grants nothing.
    return undefined;
  }
}
