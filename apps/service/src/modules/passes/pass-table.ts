import type { Proof } from '@porch/core';
import { EntitySchema } from 'typeorm';

export interface DoorPassRow {
  tokenHash: Buffer;
  sessionId: string;
  role: 'customer-page' | 'doorstep' | 'invitation';
  /** How its bearer came by it: told in the ledger when they come in. */
  way: string;
  /** The invitation it belongs to, whose uses and withdrawal count. */
  invitationId: string | null;
  /** Joining by it takes it away: what a download knows of its session. */
  isSingleUse: boolean;
  /** What it was made from: it dies with it. */
  parentHash: Buffer | null;
  /** What whoever comes in by it has shown of who they are. */
  proof: Proof | null;
  /** Who came in by it: from then on it is theirs. */
  participantId: string | null;
  /** The customer has accepted: nobody else comes in by it. */
  isClosed: boolean;
  expiresAt: Date;
}
export const DoorPassEntity = new EntitySchema<DoorPassRow>({
  name: 'door_pass',
  columns: {
    tokenHash: { type: 'bytea', primary: true, name: 'token_hash' },
    sessionId: { type: 'uuid', name: 'session_id' },
    role: { type: 'text' },
    way: { type: 'text' },
    invitationId: { type: 'uuid', name: 'invitation_id', nullable: true },
    isSingleUse: { type: 'boolean', name: 'is_single_use' },
    parentHash: { type: 'bytea', name: 'parent_hash', nullable: true },
    proof: { type: 'text', nullable: true },
    participantId: { type: 'uuid', name: 'participant_id', nullable: true },
    isClosed: { type: 'boolean', name: 'is_closed' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [
    { name: 'door_pass_session', columns: ['sessionId'] },
    { name: 'door_pass_parent', columns: ['parentHash'] },
  ],
});
