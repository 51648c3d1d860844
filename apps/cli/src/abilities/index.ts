import type { CliAbility } from './cli-ability.ts';
import { camera } from './camera/cli.ts';
import { clipboard } from './clipboard/cli.ts';
import { commandLine } from './command-line/cli.ts';
import { drawing } from './drawing/cli.ts';
import { files } from './files/cli.ts';
import { handsOff } from './hands-off/cli.ts';
import { input } from './input/cli.ts';
import { oneProgram } from './one-program/cli.ts';
import { ownScreen } from './own-screen/cli.ts';
import { passwords } from './passwords/cli.ts';
import { picture } from './picture/cli.ts';
import { programs } from './programs/cli.ts';
import { runbook } from './runbook/cli.ts';
import { administratorRights } from './administrator-rights/cli.ts';
import { desktops } from './desktops/cli.ts';
import { prints } from './prints/cli.ts';
import { restartAndReturn } from './restart-and-return/cli.ts';
import { safePoints } from './safe-points/cli.ts';
import { screenshot } from './screenshot/cli.ts';
import { sound } from './sound/cli.ts';
import { speaking } from './speaking/cli.ts';
import { standing } from './standing/cli.ts';
import { systemReport } from './system-report/cli.ts';

/** Those abilities that have verbs, in the order in which help lists them. */
export const cliAbilities: readonly CliAbility[] = [
  picture,
  drawing,
  screenshot,
  systemReport,
  programs,
  safePoints,
  administratorRights,
  restartAndReturn,
  prints,
  desktops,
  runbook,
  commandLine,
  input,
  clipboard,
  sound,
  speaking,
  camera,
  ownScreen,
  handsOff,
  oneProgram,
  passwords,
  files,
  standing,
];
