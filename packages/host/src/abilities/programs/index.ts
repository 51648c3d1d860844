import { SealedLine } from '@porch/client';
import type { Participant } from '@porch/core';
import { programsChannel, type ProgramsMessage } from '@porch/wire';
import { beginWith, type HostAbility, type Kit, type Running } from '../../kit.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import type { ProgramsPort } from '../../ports/programs-port.ts';
import { ProgramActs } from './acts.ts';
import { ProgramWatches } from './watches.ts';

function beginPrograms(kit: Kit, port: ProgramsPort): Running {
  const line = new SealedLine(kit.connection, programsChannel);
  const watches = new ProgramWatches(kit, port, line);
  const acts = new ProgramActs(kit, port, line, (list) => watches.hurry(list));
  const hear = (from: Participant, message: ProgramsMessage) => {
    if (message.type === 'watch') watches.begin(from, message);
    else if (message.type === 'more') watches.goOn(from, message);
    else if (message.type === 'stop') watches.stop(from, message.watchId);
    else if (message.type === 'prepare') acts.prepare(from, message);
    else if (message.type === 'drop') acts.drop(from, message.actId);
    else if (message.type === 'act') acts.act(from, message.actId, message.signature);
  };
  const off = line.listen(
    ({ from, message }) => hear(from, message),
    (from) => from.side === 'desk' && !from.isGone && kit.held.holds('inspect-programs', from.signKey),
  );
  return {
    changed: () => {
      watches.check();
      acts.check();
    },
    close: () => {
      off();
      watches.close();
      acts.close();
    },
  };
}

/** What runs on the computer: looked at, ended, stopped and started. */
export const programs: HostAbility = {
  name: 'programs',
  whyNot: (_permission, ports) => whyWithout(ports, 'programs'),
  warn: ({ permission, words, firstName }) =>
    words.programs[permission === 'inspect-programs' ? 'whatIsSeen' : 'whatIsChanged']({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.programs, (port) => beginPrograms(kit, port)),
};
