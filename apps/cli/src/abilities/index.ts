import type { CliAbility } from './cli-ability.ts';
import { files } from './files/cli.ts';
import { input } from './input/cli.ts';
import { picture } from './picture/cli.ts';
import { screenshot } from './screenshot/cli.ts';
import { standing } from './standing/cli.ts';

/** Those abilities that have verbs, in the order in which help lists them. */
export const cliAbilities: readonly CliAbility[] = [picture, screenshot, input, files, standing];
