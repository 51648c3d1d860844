import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import type { chatCommands } from './commands.ts';

export const chatDeciders = {
  sendChat: (s, c, me) => {
    if (s.phase.name === 'logged') return refuse('SESSION_ENDED');
    return [{ type: 'chatSent', by: me.id, messageId: c.messageId, personal: { text: c.text } }];
  },
} satisfies Deciders<typeof chatCommands>;
