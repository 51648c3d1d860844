import type { ConsoleAbility } from '../console-ability.ts';
import PasswordsNote from './PasswordsNote.vue';

export const passwords: ConsoleAbility = { name: 'passwords', note: PasswordsNote };
