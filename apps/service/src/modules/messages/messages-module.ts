import type { Config } from '../../config.ts';
import { defineModule } from '../../module/service-module.ts';
import { makeGateway, type GatewaySettings } from './outside-gateway.ts';

/** What carries mails and text messages. */
export const messagesModule = defineModule({
  name: 'messages',
  build: ({ config }: { readonly config: Pick<Config, keyof GatewaySettings> }) => {
    const gateway = makeGateway(config);
    return { gives: { gateway }, close: () => gateway.close() };
  },
});
