import type { ConsoleAbility } from '../console-ability.ts';
import { checkWordsTool } from './tool.ts';

/** Shown with the picture, whose keys the words vouch for. */
export const checkWords: ConsoleAbility = { name: 'check-words', tool: checkWordsTool };
