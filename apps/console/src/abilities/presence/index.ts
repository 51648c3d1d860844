import type { ConsoleAbility } from '../console-ability.ts';
import PresenceNote from './PresenceNote.vue';

export const presence: ConsoleAbility = { name: 'presence', note: PresenceNote };
