import { counted, speechOf } from '@porch/words';
import { ledger } from '@porch/words/ledger';
import {
  abilitiesHanded,
  customersAct,
  stopsRestart,
  type Participant,
  type Permission,
  type RestartHow,
  type SessionState,
} from '@porch/core';
import { hints } from '../../consent/questions.ts';
import type { Kit } from '../../kit.ts';
import type { HitFound, RestartOutlook } from '../../ports/restart-port.ts';
import type { Question } from '../../ports/question.ts';
import { isOfferedOn } from './agreement.ts';

const MOST_NAMES = 4;

export interface WantedRestart {
  readonly from: Participant;
  readonly how: RestartHow;
  readonly signsIn: boolean;
}

/** What of this session a restart would break off: files on their way, an action that runs, a command line. */
export function sessionWork({ slices }: SessionState): HitFound[] {
  const isRunning =
    abilitiesHanded(slices).some(({ stage }) => stage === 'moving') ||
    Object.values(slices.runbook).some(({ standing }) => standing === 'running') ||
    Object.values(slices['command-line']).some(({ standing }) => standing === 'open');
  return isRunning ? [{ hit: 'session-work' }] : [];
}

/** What stands in the way of it, whoever says yes. */
export const stoppedBy = ({ hits }: RestartOutlook, how: RestartHow): HitFound | undefined =>
  hits.find(({ hit }) => stopsRestart(hit, how));

/** What the person is asked before their computer goes down: what it meets there, and what comes back by itself. */
export function restartQuestion(
  { words, connection }: Kit,
  { from, how, signsIn }: WantedRestart,
  { hits }: RestartOutlook,
  offered: readonly Permission[],
): Question {
  const { restartAndReturn: w, kernel } = words;
  const { language } = connection.state;
  const who = from.name ?? kernel.technician;
  const speech = speechOf(language);
  const met = hits
    .filter(({ hit }) => hit !== 'sign-in' || !signsIn)
    .map(({ hit, count = 0, names = [] }) => {
      const what = counted(w.hits[hit], count);
      return names.length ? w.named({ what, names: speech.list(names.slice(0, MOST_NAMES)) }) : what;
    });
  return {
    title: w.title[how]({ who }),
    lines: [
      ...(hits.some(({ hit }) => hit === 'unsaved') ? [] : [w.save]),
      ...met,
      ...(signsIn ? [w.signsIn] : []),
      w.comesBack,
      ...(offered.length ? [w.then({ who })] : []),
    ],
    ...(offered.length
      ? {
          choices: offered.map((one) => ({ label: customersAct(one, ledger[language]), isOn: isOfferedOn(one) })),
        }
      : {}),
    ...{ yes: w.yes[how], no: w.no, ...hints(kernel) },
  };
}
