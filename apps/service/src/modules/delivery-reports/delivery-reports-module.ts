import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import { BounceDoor } from './bounce-door.ts';
import { textReportRoutes } from './text-report-routes.ts';

interface Needs extends Pick<Kit, 'records' | 'log'> {
  readonly config: Pick<Config, 'host' | 'bouncePort' | 'bounceDomain' | 'textsKey'>;
  readonly invitations: InvitationDesk;
}

/** What became of mails and text messages, as those who carried them say. */
export const deliveryReportsModule = defineModule({
  name: 'delivery-reports',
  build: ({ config: { host, bouncePort, bounceDomain, textsKey }, records, log, invitations }: Needs) => {
    const door =
      bouncePort !== undefined && bounceDomain
        ? new BounceDoor(host, bouncePort, log, (ref, report) => invitations.report(ref, report))
        : undefined;
    return {
      gives: {},
      routes: textsKey ? [{ plugin: textReportRoutes({ records, invitations, textsKey }) }] : [],
      open: () => door?.listen(),
      close: () => door?.close(),
    };
  },
});
