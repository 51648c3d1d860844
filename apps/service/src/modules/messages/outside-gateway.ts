import { NeverDeliverable } from '../../module/parcels.ts';
import { makeMailCarrier, type MailSettings } from './mail-carrier.ts';
import type { MessageGateway } from './message-gateway.ts';
import { makeTextCarrier } from './text-carrier.ts';

export interface GatewaySettings extends Omit<MailSettings, 'smtpUrl'> {
  readonly smtpUrl: string | undefined;
  readonly textsUrl: string | undefined;
  readonly textsKey: string | undefined;
}

/** What this desk has of the two: what it does not have can never arrive. */
export function makeGateway(settings: GatewaySettings): MessageGateway {
  const { smtpUrl, textsUrl, textsKey } = settings;
  const mails = smtpUrl ? makeMailCarrier({ ...settings, smtpUrl }) : undefined;
  const text = textsUrl && textsKey ? makeTextCarrier(textsUrl, textsKey) : undefined;
  return {
    hasMail: mails !== undefined,
    hasTexts: text !== undefined,
    mail: mails?.mail ?? (() => Promise.reject(new NeverDeliverable('the desk has no mail server'))),
    text: text ?? (() => Promise.reject(new NeverDeliverable('the desk has no text gateway'))),
    close: () => mails?.close(),
  };
}
