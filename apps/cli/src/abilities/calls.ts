import { cameraCalls } from './camera/calls.ts';
import { clipboardCalls } from './clipboard/calls.ts';
import { drawingCalls } from './drawing/calls.ts';
import { filesCalls } from './files/calls.ts';
import { handsOffCalls } from './hands-off/calls.ts';
import { inputCalls } from './input/calls.ts';
import { ownScreenCalls } from './own-screen/calls.ts';
import { pictureCalls } from './picture/calls.ts';
import { programsCalls } from './programs/calls.ts';
import { commandLineCalls } from './command-line/calls.ts';
import { runbookCalls } from './runbook/calls.ts';
import { administratorRightsCalls } from './administrator-rights/calls.ts';
import { desktopsCalls } from './desktops/calls.ts';
import { printsCalls } from './prints/calls.ts';
import { restartCalls } from './restart-and-return/calls.ts';
import { safePointsCalls } from './safe-points/calls.ts';
import { screenshotCalls } from './screenshot/calls.ts';
import { soundCalls } from './sound/calls.ts';
import { speakingCalls } from './speaking/calls.ts';
import { standingCalls } from './standing/calls.ts';
import { systemReportCalls } from './system-report/calls.ts';

/** What abilities' verbs ask of the keeper. */
export const abilityCalls = {
  ...pictureCalls,
  ...inputCalls,
  ...drawingCalls,
  ...clipboardCalls,
  ...soundCalls,
  ...speakingCalls,
  ...cameraCalls,
  ...ownScreenCalls,
  ...handsOffCalls,
  ...filesCalls,
  ...standingCalls,
  ...screenshotCalls,
  ...systemReportCalls,
  ...programsCalls,
  ...safePointsCalls,
  ...administratorRightsCalls,
  ...restartCalls,
  ...printsCalls,
  ...desktopsCalls,
  ...runbookCalls,
  ...commandLineCalls,
} as const;
