import { cameraChannel } from './camera.ts';
import { checkWordsChannel } from './check-words.ts';
import { clipboardChannel } from './clipboard.ts';
import { administratorRightsChannel } from './administrator-rights.ts';
import { restartChannel } from './restart-and-return.ts';
import { commandLineChannel, commandLineOutputChannel } from './command-line.ts';
import { desktopsChannel } from './desktops.ts';
import { drawingChannel } from './drawing.ts';
import { filesChannel } from './files.ts';
import { handsOffChannel } from './hands-off.ts';
import { inputChannel } from './input.ts';
import { ownScreenChannel } from './own-screen.ts';
import { pictureChannel } from './picture.ts';
import { runbookChannel } from './runbook.ts';
import { safePointsChannel } from './safe-points.ts';
import { screenshotChannel } from './screenshot.ts';
import { soundChannel, voiceChannel } from './sound.ts';
import { standingChannel } from './standing.ts';
import { printsChannel } from './prints.ts';
import { programsChannel } from './programs.ts';
import { systemReportChannel } from './system-report.ts';
import type { SealedChannel } from '../sealed/channel.ts';

/** What abilities say to each other, sealed. The relay looks up here what may pass, and in which queue. */
export const sealedChannels = [
  pictureChannel,
  inputChannel,
  filesChannel,
  drawingChannel,
  checkWordsChannel,
  standingChannel,
  screenshotChannel,
  clipboardChannel,
  soundChannel,
  voiceChannel,
  cameraChannel,
  ownScreenChannel,
  handsOffChannel,
  systemReportChannel,
  programsChannel,
  safePointsChannel,
  runbookChannel,
  commandLineChannel,
  commandLineOutputChannel,
  administratorRightsChannel,
  restartChannel,
  printsChannel,
  desktopsChannel,
] as const;

export type SealedName = (typeof sealedChannels)[number]['name'];
const byName = new Map<string, SealedChannel>(
  sealedChannels.map((channel) => [channel.name, channel as unknown as SealedChannel]),
);
export const sealedChannelOf = (name: string): SealedChannel | undefined => byName.get(name);
