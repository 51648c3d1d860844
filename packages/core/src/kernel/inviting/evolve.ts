import type { Evolvers } from '../evolvers.ts';
import type { invitingEvents } from './events.ts';

export const invitingEvolvers = {
  sessionPrepared: (s, e) => ({
    ...s,
    technicianId: e.technicianId,
    behind: e.behind,
    deviceId: e.deviceId,
    deviceLabel: e.deviceLabel,
    ticketRef: e.ticketRef,
    language: e.language ?? s.language,
    technicianName: e.personal?.technicianName,
    purpose: e.personal?.purpose,
    customerPurpose: e.personal?.customerPurpose,
    asset: e.personal?.asset,
    customerName: e.personal?.customerName,
    customerAddress: e.personal?.customerAddress,
  }),
  customerExpected: (s, e) => ({
    ...s,
    customerName: e.personal?.customerName,
    customerAddress: e.personal?.customerAddress,
  }),
  ticketAttached: (s, e) => ({ ...s, ticketRef: e.ticketRef }),
  codeIssued: (s) => s,
  codeWithdrawn: (s) => s,
  invitationIssued: (s) => s,
  invitationFailed: (s) => s,
  invitationWithdrawn: (s) => s,
} satisfies Evolvers<typeof invitingEvents>;
