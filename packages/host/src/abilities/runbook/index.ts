import { SealedLine } from '@porch/client';
import { mayEnd, type Participant } from '@porch/core';
import { runbookChannel, type RunbookMessage } from '@porch/wire';
import { beginWith, type HostAbility, type Kit, type Running } from '../../kit.ts';
import { ofEarlierStart } from '../../of-earlier-start.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import type { RunbookPort } from '../../ports/runbook-port.ts';
import { RunbookRuns } from './runs.ts';

function beginRunbook(kit: Kit, port: RunbookPort): Running {
  const line = new SealedLine(kit.connection, runbookChannel);
  const runs = new RunbookRuns(kit, port, line);
  const hear = (from: Participant, message: RunbookMessage) => {
    if (message.type === 'look') runs.look(from, message);
    else if (message.type === 'run') runs.run(from, message.runId);
    else if (message.type === 'stop') runs.stop(from, message.runId);
    else if (message.type === 'drop') runs.drop(from, message.runId);
    else if (message.type === 'more') runs.more(from, message.runId, message.from);
  };
  const off = line.listen(
    ({ from, message }) => hear(from, message),
    (from) => from.side === 'desk' && !from.isGone && kit.held.holds('run-runbook', from.signKey),
  );
  for (const runId of ofEarlierStart(kit, kit.connection.state.slices.runbook, mayEnd))
    kit.report((fact) => ({
      ...{ type: 'runbook/tellEnded', runId, outcome: 'broken-off', code: undefined, unsaid: 0, fact },
      mayGoOn: undefined,
    }));
  const says = (title: string) => kit.words.runbook.runs({ title });
  return {
    changed: () => runs.check(),
    banner: (soFar) => (runs.now ? { ...soFar, besides: [...soFar.besides, says(runs.now.title)] } : soFar),
    barAlone: () => runs.now && { who: runs.now.who, what: says(runs.now.title) },
    close: () => {
      off();
      return runs.close();
    },
  };
}

/** What the desk prepared to be run here. */
export const runbook: HostAbility = {
  name: 'runbook',
  whyNot: (_permission, ports) => whyWithout(ports, 'runbook'),
  warn: ({ words, firstName }) => words.runbook.whatIsRun({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.runbook, (port) => beginRunbook(kit, port)),
};
