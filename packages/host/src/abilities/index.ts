import type { HostAbility } from '../kit.ts';
import { camera } from './camera/camera.ts';
import { checkWords } from './check-words.ts';
import { clipboard } from './clipboard.ts';
import { administratorRights } from './administrator-rights/index.ts';
import { commandLine } from './command-line/index.ts';
import { restartAndReturn } from './restart-and-return/index.ts';
import { desktops } from './desktops/index.ts';
import { drawing } from './drawing.ts';
import { files } from './files/index.ts';
import { handsOff } from './hands-off.ts';
import { input } from './input.ts';
import { ownScreen } from './own-screen.ts';
import { oneProgram } from './one-program.ts';
import { passwords } from './passwords.ts';
import { picture } from './picture/picture.ts';
import { presence } from './presence.ts';
import { prints } from './prints/index.ts';
import { programs } from './programs/index.ts';
import { runbook } from './runbook/index.ts';
import { safePoints } from './safe-points.ts';
import { screenshot } from './screenshot.ts';
import { sound } from './sound.ts';
import { speaking } from './speaking.ts';
import { standing } from './standing/standing.ts';
import { systemReport } from './system-report.ts';

/** What a host can do, in the order in which the bar is put together. */
export const hostAbilities: readonly HostAbility[] = [
  standing,
  picture,
  input,
  presence,
  oneProgram,
  passwords,
  files,
  clipboard,
  sound,
  speaking,
  camera,
  ownScreen,
  handsOff,
  checkWords,
  screenshot,
  systemReport,
  programs,
  safePoints,
  administratorRights,
  runbook,
  commandLine,
  restartAndReturn,
  prints,
  desktops,
  drawing,
];
