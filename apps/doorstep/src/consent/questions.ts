import { formatBytes, permissionCatalogue, type OpenAsk, type SessionState } from '@porch/core';
import type { BannerWords, Question } from '../desktop/desktop.ts';

/* Every word that Doorstep puts on the customer's screen. */

const firstName = (name: string) => name.split(' ')[0] ?? name;
const list = (parts: readonly string[]) =>
  parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1) ?? ''}`;

export function questionForAsk(state: SessionState, ask: OpenAsk, deskName: string): Question {
  const technician = state.participants[ask.participantId];
  const name = technician?.name ?? 'A technician';
  const wants = list(ask.permissions.map((p) => permissionCatalogue[p].customerLabel));
  const previous = state.handover ? state.participants[state.handover.fromParticipantId]?.name : undefined;
  const why = state.ticketRef ? `For ticket ${state.ticketRef}: ${state.purpose ?? ''}` : (state.purpose ?? '');
  const hints: string[] = [];
  if (ask.permissions.includes('control-input'))
    hints.push('Your own mouse and keyboard always win. Stop is in the bar at the edge of the screen.');
  else if (ask.permissions.includes('view-screen'))
    hints.push(`${firstName(name)} will see everything on this screen. Close what is private first.`);
  if (ask.permissions.includes('fetch-files'))
    hints.push('A file that was fetched leaves this computer. You see the name of each one.');
  return {
    title: previous ? `${name} takes over from ${previous}` : `${name} of ${deskName} asks`,
    lines: [`May ${firstName(name)} ${wants}?`, why, ...hints].filter(Boolean),
    yes: 'Yes',
    no: 'No',
  };
}

export const questionForFile = (technician: string, fileName: string, sizeBytes: number): Question => ({
  title: `${technician} gives you a file`,
  lines: [
    `Take “${fileName}” (${formatBytes(sizeBytes)})?`,
    'It is put into your folder for downloads and is not opened.',
  ],
  yes: 'Yes',
  no: 'No',
});

export const callQuestion = (deskName: string, deskPhone: string): Question => ({
  title: 'Did you call us, or did somebody call you?',
  lines: [
    'People who pretend to be a help desk call by themselves. We do not.',
    deskPhone
      ? `If somebody called you, we stop here. The number of ${deskName} is ${deskPhone}.`
      : 'If somebody called you, we stop here.',
  ],
  yes: 'I called them',
  no: 'They called me',
});

export const acceptQuestion = (state: SessionState, deskName: string): Question => ({
  title: `${state.technicianName ?? 'A technician'} of ${deskName} wants to help you`,
  lines: [
    state.ticketRef ? `Ticket ${state.ticketRef}: ${state.purpose ?? ''}` : (state.purpose ?? ''),
    'Nothing is shown yet: you are asked for each thing by itself. What is said and done is written down, and you get a copy.',
  ],
  yes: 'Begin',
  no: 'Do not begin',
});

export const compareQuestion = (technicianName: string, words: readonly string[]): Question => ({
  title: `Does ${firstName(technicianName)} say the same words?`,
  lines: [
    words.join(' · '),
    `Ask ${firstName(technicianName)} to read their words to you, on the telephone. The same words mean that nobody sits between you. Other words end the session.`,
  ],
  yes: 'The same words',
  no: 'Other words',
});

/** What the banner says just now; undefined when nobody may do anything. */
export function bannerWords(
  state: SessionState,
  isControlled: boolean,
  may: (permission: 'view-screen' | 'control-input', signKey: string) => boolean,
  areWordsCompared: (participantId: string) => boolean,
  isWallpaperHidden = false,
): BannerWords | undefined {
  const lookers = Object.values(state.participants).filter(
    (p) => p.role === 'technician' && !p.isGone && may('view-screen', p.signKey),
  );
  if (!lookers.length) return undefined;
  const workers = lookers.filter((p) => may('control-input', p.signKey));
  const who = list(
    lookers.map((p) => `${p.name ?? 'A technician'}${areWordsCompared(p.id) ? '' : ' (words not compared)'}`),
  );
  const what = workers.length
    ? isControlled
      ? 'sees your screen and is using mouse and keyboard'
      : 'sees your screen and may use mouse and keyboard'
    : 'sees your screen';
  return { who, what: isWallpaperHidden ? `${what}; your wallpaper is hidden meanwhile` : what };
}
