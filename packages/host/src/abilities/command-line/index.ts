import { SealedLine } from '@porch/client';
import { mayClose, type Participant } from '@porch/core';
import { commandLineChannel, commandLineOutputChannel, type CommandLineMessage } from '@porch/wire';
import type { HostAbility, Kit, Running } from '../../kit.ts';
import type { CommandLinePort } from '../../ports/command-line-port.ts';
import { ofEarlierStart } from '../../of-earlier-start.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import type { LinesWindowPort } from '../../ports/lines-window-port.ts';
import { CommandLines } from './lines.ts';

function beginCommandLines(kit: Kit, port: CommandLinePort, window: LinesWindowPort): Running {
  const words = new SealedLine(kit.connection, commandLineChannel);
  const output = new SealedLine(kit.connection, commandLineOutputChannel);
  const lines = new CommandLines({ kit, port, window, words, output });
  const hear = (from: Participant, message: CommandLineMessage) => {
    const { type } = message;
    if (type === 'open') lines.open(from, message);
    else if (type === 'keys') lines.keys(from, message.lineId, message.text);
    else if (type === 'size') lines.resize(from, message.lineId, message.columns, message.rows);
    else if (type === 'taken') lines.taken(from, message.lineId, message.stream, message.bytes);
    else if (type === 'again') lines.again(from, message.lineId);
    else if (type === 'close') lines.shut(from, message.lineId);
  };
  const offs = [
    words.listen(
      ({ from, message }) => hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('use-command-line', from.signKey),
    ),
    kit.connection.on('caughtUp', () => lines.lineIsBack()),
  ];
  for (const lineId of ofEarlierStart(kit, kit.connection.state.slices['command-line'], mayClose))
    kit.report((fact) => ({
      ...{ type: 'command-line/tellClosed', lineId, how: 'broken-off', code: undefined, unsaid: 0, fact },
      mayGoOn: undefined,
    }));
  return {
    changed: () => lines.check(),
    banner: (soFar) =>
      lines.who === undefined ? soFar : { ...soFar, besides: [...soFar.besides, kit.words.commandLine.works] },
    barAlone: () => {
      const { who } = lines;
      return who === undefined ? undefined : { who, what: kit.words.commandLine.works };
    },
    close: () => {
      offs.forEach((off) => off());
      return lines.close();
    },
  };
}

/** A command line for technicians, in sight of the person here. */
export const commandLine: HostAbility = {
  name: 'command-line',
  whyNot: (_permission, ports) => whyWithout(ports, 'commandLine', 'linesWindow'),
  warn: ({ words, firstName }) => words.commandLine.warn({ first: firstName }),
  begin: (kit) => {
    const { commandLine: port, linesWindow } = kit.ports;
    return port && linesWindow ? beginCommandLines(kit, port, linesWindow) : { close: () => undefined };
  },
};
