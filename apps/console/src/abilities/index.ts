import { administratorRights } from './administrator-rights/index.ts';
import { desktops } from './desktops/index.ts';
import { prints } from './prints/index.ts';
import { restartAndReturn } from './restart-and-return/index.ts';
import { camera } from './camera/index.ts';
import { checkWords } from './check-words/index.ts';
import type { ConsoleAbility } from './console-ability.ts';
import { clipboard } from './clipboard/index.ts';
import { commandLine } from './command-line/index.ts';
import { drawing } from './drawing/index.ts';
import { files } from './files/index.ts';
import { handsOff } from './hands-off/index.ts';
import { keys } from './keys/index.ts';
import { input } from './input/index.ts';
import { ownScreen } from './own-screen/index.ts';
import { oneProgram } from './one-program/index.ts';
import { passwords } from './passwords/index.ts';
import { picture } from './picture/index.ts';
import { presence } from './presence/index.ts';
import { runbook } from './runbook/index.ts';
import { safePoints } from './safe-points/index.ts';
import { screenshot } from './screenshot/index.ts';
import { sound } from './sound/index.ts';
import { speaking } from './speaking/index.ts';
import { standing } from './standing/index.ts';
import { programs } from './programs/index.ts';
import { systemReport } from './system-report/index.ts';

/** What technicians can do in a session, in the order in which it stands on the shelf. */
export const consoleAbilities: readonly ConsoleAbility[] = [
  picture,
  drawing,
  input,
  keys,
  screenshot,
  files,
  prints,
  desktops,
  clipboard,
  sound,
  speaking,
  camera,
  ownScreen,
  handsOff,
  checkWords,
  presence,
  oneProgram,
  passwords,
  systemReport,
  programs,
  safePoints,
  administratorRights,
  restartAndReturn,
  runbook,
  commandLine,
  standing,
];
