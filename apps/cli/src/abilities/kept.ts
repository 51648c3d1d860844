import { keptCamera } from './camera/kept.ts';
import { keptCheckWords } from './check-words/kept.ts';
import { keptClipboard } from './clipboard/kept.ts';
import { keptDrawing } from './drawing/kept.ts';
import { keptFiles } from './files/kept.ts';
import { keptHandsOff } from './hands-off/kept.ts';
import { keptInput } from './input/kept.ts';
import { keptOneProgram } from './one-program/kept.ts';
import { keptOwnScreen } from './own-screen/kept.ts';
import { keptPasswords } from './passwords/kept.ts';
import { keptPicture } from './picture/kept.ts';
import { keptPrograms } from './programs/kept.ts';
import { keptCommandLine } from './command-line/kept.ts';
import { keptRunbook } from './runbook/kept.ts';
import { keptAdministratorRights } from './administrator-rights/kept.ts';
import { keptDesktops } from './desktops/kept.ts';
import { keptPrints } from './prints/kept.ts';
import { keptRestart } from './restart-and-return/kept.ts';
import { keptSafePoints } from './safe-points/kept.ts';
import { keptScreenshot } from './screenshot/kept.ts';
import { keptSound } from './sound/kept.ts';
import { keptSpeaking } from './speaking/kept.ts';
import { keptStanding } from './standing/kept.ts';
import { keptSystemReport } from './system-report/kept.ts';

/** What the keeper of a session has going for the command line. */
export const keptAbilities = [
  keptFiles,
  keptPicture,
  keptInput,
  keptDrawing,
  keptClipboard,
  keptSound,
  keptSpeaking,
  keptCamera,
  keptOwnScreen,
  keptHandsOff,
  keptOneProgram,
  keptPasswords,
  keptCheckWords,
  keptStanding,
  keptScreenshot,
  keptSystemReport,
  keptPrograms,
  keptSafePoints,
  keptAdministratorRights,
  keptRestart,
  keptPrints,
  keptDesktops,
  keptRunbook,
  keptCommandLine,
] as const;
