import type { Kit } from '../module/kit.ts';
import { ModuleList } from '../module/service-module.ts';
import { bookingsModule } from './bookings/bookings-module.ts';
import { callersModule } from './callers/callers-module.ts';
import { carefulActsModule } from './careful-acts/careful-acts-module.ts';
import { codesModule } from './codes/codes-module.ts';
import { deliveryReportsModule } from './delivery-reports/delivery-reports-module.ts';
import { devicesModule } from './devices/devices-module.ts';
import { directoryModule } from './directory/directory-module.ts';
import { doorModule } from './door/door-module.ts';
import { downloadsModule } from './downloads/downloads-module.ts';
import { handoversModule } from './handovers/handovers-module.ts';
import { invitationsModule } from './invitations/invitations-module.ts';
import { knownFaultsModule } from './known-faults/known-faults-module.ts';
import { knowledgeModule } from './knowledge/knowledge-module.ts';
import { liveModule } from './live/live-module.ts';
import { lookingBackModule } from './looking-back/looking-back-module.ts';
import { messagesModule } from './messages/messages-module.ts';
import { onceModule } from './once/once-module.ts';
import { outboxModule } from './outbox/outbox-module.ts';
import { passesModule } from './passes/passes-module.ts';
import { policyModule } from './policy/policy-module.ts';
import { peopleModule } from './people/people-module.ts';
import { porchModule } from './porch/porch-module.ts';
import { queueModule } from './queue/queue-module.ts';
import { rightsModule } from './rights/rights-module.ts';
import { runbookModule } from './runbook/runbook-module.ts';
import { screenshotModule } from './screenshot/screenshot-module.ts';
import { sessionsModule } from './sessions/sessions-module.ts';
import { startingModule } from './starting/starting-module.ts';
import { systemReportModule } from './system-report/system-report-module.ts';
import { ticketWebhooksModule } from './ticket-webhooks/ticket-webhooks-module.ts';
import { ticketsModule } from './tickets/tickets-module.ts';

/** Everything the desk can do, in the order of its building: each stands on those above it, and closes before them. */
export const { modules } = ModuleList.startWith<Kit>()
  .with(policyModule)
  .with(onceModule)
  .with(messagesModule)
  .with(directoryModule)
  .with(outboxModule)
  .with(peopleModule)
  .with(sessionsModule)
  .with(ticketsModule)
  .with(codesModule)
  .with(passesModule)
  .with(invitationsModule)
  .with(deliveryReportsModule)
  .with(queueModule)
  .with(knownFaultsModule)
  .with(ticketWebhooksModule)
  .with(devicesModule)
  .with(bookingsModule)
  .with(callersModule)
  .with(knowledgeModule)
  .with(lookingBackModule)
  .with(screenshotModule)
  .with(systemReportModule)
  .with(carefulActsModule)
  .with(rightsModule)
  .with(runbookModule)
  .with(startingModule)
  .with(handoversModule)
  .with(liveModule)
  .with(doorModule)
  .with(downloadsModule)
  .with(porchModule);
