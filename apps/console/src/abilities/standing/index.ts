import type { ConsoleAbility } from '../console-ability.ts';
import { standingTool } from './tool.ts';

/** Shown while a technician waits at the door of a device. */
export const standing: ConsoleAbility = { name: 'standing', tool: standingTool };
