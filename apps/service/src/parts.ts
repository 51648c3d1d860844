import type { LedgerRow, Policy, Templates, Topic } from '@porch/core';
import type { FastifyRequest } from 'fastify';
import type { DataSource } from 'typeorm';
import type { Attempts } from './auth/attempts.ts';
import type { SignIns } from './auth/sign-in.ts';
import type { BookingDesk } from './bookings/booking-desk.ts';
import type { CodeDesk } from './codes/code-desk.ts';
import type { TechnicianRow } from './db/entities.ts';
import type { DeviceDesk } from './devices/device-desk.ts';
import type { DeviceGateway } from './devices/device-gateway.ts';
import type { Directory } from './directory/directory.ts';
import type { ReleaseShelf } from './downloads/release-shelf.ts';
import type { DoorPasses } from './door/door-passes.ts';
import type { ConnectionPasses } from './live/connection-passes.ts';
import type { InvitationDesk } from './invitations/invitation-desk.ts';
import type { LiveGateway } from './live/live-gateway.ts';
import type { DeskFeed } from './porch/desk-feed.ts';
import type { KnownFaultDesk } from './queue/known-fault-desk.ts';
import type { QueueDesk } from './queue/queue-desk.ts';
import type { TechnicianStates } from './queue/technician-states.ts';
import type { ScreenshotDesk } from './modules/screenshot/screenshot-desk.ts';
import type { SessionDesk } from './sessions/session-desk.ts';
import type { Outbox } from './tickets/outbox.ts';
import type { TicketLists } from './tickets/ticket-lists.ts';

/** What the routes are handed; made once in `buildApp`. */
export interface Parts {
  readonly records: DataSource;
  readonly signIns: SignIns;
  readonly passes: DoorPasses;
  /** Closes whatever was opened with these sign-ins. */
  endSignIns(ids: readonly string[]): void;
  readonly attempts: Attempts;
  readonly codes: CodeDesk;
  readonly desk: SessionDesk;
  readonly queue: QueueDesk;
  readonly connectionPasses: ConnectionPasses;
  readonly ticketLists: TicketLists;
  readonly outbox: Outbox;
  readonly feed: DeskFeed;
  readonly live: LiveGateway;
  readonly invitations: InvitationDesk;
  readonly bookings: BookingDesk;
  readonly devices: DeviceDesk;
  readonly deviceGateway: DeviceGateway;
  /** The release of Doorstep that is handed out; undefined: none. */
  readonly shelf: ReleaseShelf | undefined;
  readonly templates: Templates;
  readonly mailFrom: string;
  /** What the desk can send with. */
  readonly ways: { readonly hasMail: boolean; readonly hasTexts: boolean };
  readonly policy: Policy;
  readonly topics: readonly Topic[];
  readonly technicians: ReadonlyMap<string, TechnicianRow>;
  readonly screenshots: ScreenshotDesk;
  readonly states: TechnicianStates;
  readonly knownFaults: KnownFaultDesk;
  readonly directory: Directory | undefined;
  readonly requestsNeedSignIn: boolean;
  publicUrl(): string;
  liveUrl(request: FastifyRequest): string;
  readLedger(id: string): Promise<{ rows: LedgerRow[]; asideRows: LedgerRow[] }>;
}
