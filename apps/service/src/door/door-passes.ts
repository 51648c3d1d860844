import type { DataSource } from 'typeorm';
import { hashToken, makeToken } from '../auth/tokens.ts';
import { DoorPassEntity, type DoorPassRow } from '../db/entities.ts';

/** How long a customer's page or Doorstep may come back to its session, and read the receipt. */
export const PASS_MS = 7 * 24 * 60 * 60 * 1000;

/** What lets a customer's program into one session; only its hash is kept. */
export async function newDoorPass(
  records: DataSource,
  sessionId: string,
  role: DoorPassRow['role'],
  way: string,
  { isSingleUse = false, lifetimeMs = PASS_MS } = {},
): Promise<string> {
  const token = makeToken();
  await records.getRepository(DoorPassEntity).insert({
    tokenHash: hashToken(token),
    sessionId,
    role,
    way,
    invitationId: null,
    isSingleUse,
    expiresAt: new Date(Date.now() + lifetimeMs),
  });
  return token;
}
