import type { Delivery, InvitationWay, Language } from '@porch/core';
import { EntitySchema } from 'typeorm';

export interface InvitationRow {
  id: string;
  sessionId: string;
  way: InvitationWay;
  /** The link's token, encrypted with the service's secret: to be copied, sent and drawn again. */
  sealedToken: Buffer;
  address: string | null;
  language: Language;
  remark: string | null;
  delivery: Delivery['name'];
  why: string | null;
  uses: number;
  usesAllowed: number | null;
  /** What gateways say about their delivery report: who does not know it cannot report. */
  reportRef: string;
  issuedAt: Date;
  changedAt: Date;
  expiresAt: Date;
}
export const InvitationEntity = new EntitySchema<InvitationRow>({
  name: 'invitation',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    way: { type: 'text' },
    sealedToken: { type: 'bytea', name: 'sealed_token' },
    address: { type: 'text', nullable: true },
    language: { type: 'text' },
    remark: { type: 'text', nullable: true },
    delivery: { type: 'text' },
    why: { type: 'text', nullable: true },
    uses: { type: 'int' },
    usesAllowed: { type: 'int', name: 'uses_allowed', nullable: true },
    reportRef: { type: 'text', name: 'report_ref' },
    issuedAt: { type: 'timestamptz', name: 'issued_at' },
    changedAt: { type: 'timestamptz', name: 'changed_at' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [
    { name: 'invitation_session', columns: ['sessionId'] },
    { name: 'invitation_report_ref', columns: ['reportRef'], unique: true },
  ],
});
