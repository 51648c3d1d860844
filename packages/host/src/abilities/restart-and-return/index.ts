import { SealedLine } from '@porch/client';
import { isOver, type Participant } from '@porch/core';
import { randomId, restartChannel, type RestartMessage } from '@porch/wire';
import { beginWith, type HostAbility, type Kit, type Running } from '../../kit.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import type { RestartPort } from '../../ports/restart-port.ts';
import { ComingBack } from './coming-back.ts';
import { RestartHere } from './restart-here.ts';

function beginRestart(kit: Kit, port: RestartPort): Running {
  const { connection, words } = kit;
  const line = new SealedLine(connection, restartChannel);
  const comingBack = new ComingBack(kit, port);
  const restart = new RestartHere(kit, port, line, (agreement, id) => comingBack.agree(agreement, id));
  const hear = (from: Participant, message: RestartMessage) => {
    if (message.type === 'look') restart.look(from, message.id);
    else if (message.type === 'restart') restart.restart(from, message);
    else if (message.type === 'drop') restart.drop(from, message.id);
  };
  const offs = [
    line.listen(
      ({ from, message }) => hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('restart-computer', from.signKey),
    ),
    connection.on('entry', ({ event }) => {
      if (event.type === 'permissionGranted') comingBack.used(event.participantId, event.permission);
      if (event.type === 'permissionWithdrawn') comingBack.gone(event.participantId, event.permission);
    }),
    port.onGoingDown(() => {
      if (restart.isGoing || isOver(connection.state)) return;
      const restartId = randomId(kit.random);
      kit.report((fact) => ({ type: 'restart-and-return/tellBegun', restartId, how: 'restart', fact }));
    }),
  ];
  return {
    changed: () => {
      restart.check();
      comingBack.follow();
    },
    takenBack: (participantId, permission) => {
      if (participantId !== undefined && permission !== undefined) comingBack.gone(participantId, permission);
      else comingBack.allGone();
    },
    covers: (ask) => {
      const untilMs = comingBack.coveredUntilMs(ask);
      return untilMs === undefined ? undefined : { untilMs, by: 'return' };
    },
    banner: (soFar) =>
      restart.isGoing ? { ...soFar, besides: [...soFar.besides, words.restartAndReturn.goesDown] } : soFar,
    close: async () => {
      offs.forEach((off) => off());
      await restart.close();
      await comingBack.close();
    },
  };
}

/** A restart of this computer, after which the session goes on as the person here said. */
export const restartAndReturn: HostAbility = {
  name: 'restart-and-return',
  whyNot: (_permission, ports) => whyWithout(ports, 'restart'),
  warn: ({ words, firstName }) => words.restartAndReturn.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.restart, (port) => beginRestart(kit, port)),
};
