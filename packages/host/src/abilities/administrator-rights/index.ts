import { SealedLine } from '@porch/client';
import { mayFall, type Participant } from '@porch/core';
import { administratorRightsChannel, type AdministratorRightsMessage } from '@porch/wire';
import { beginWith, type HostAbility, type Kit, type Running } from '../../kit.ts';
import { ofEarlierStart } from '../../of-earlier-start.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import type { RightsPort } from '../../ports/rights-port.ts';
import { RightsHere } from './rights-here.ts';

function beginRights(kit: Kit, port: RightsPort): Running {
  const line = new SealedLine(kit.connection, administratorRightsChannel);
  const rights = new RightsHere(kit, port, line);
  const hear = (from: Participant, message: AdministratorRightsMessage) => {
    if (message.type === 'ways') rights.tellWays(from, message.id);
    else if (message.type === 'raise') rights.raise(from, message);
    else if (message.type === 'lower') rights.lower(from, message.id);
  };
  const off = line.listen(
    ({ from, message }) => hear(from, message),
    (from) => from.side === 'desk' && !from.isGone && kit.held.holds('raise-rights', from.signKey),
  );
  for (const raiseId of ofEarlierStart(kit, kit.connection.state.slices['administrator-rights'], mayFall))
    kit.report((fact) => ({
      ...{ type: 'administrator-rights/tellFell', raiseId, why: 'gone', mayGoOn: undefined, fact },
    }));
  kit.shared.raisedFor = (signKey) => rights.raisedFor(signKey);
  const has = kit.words.administratorRights.has;
  return {
    changed: () => rights.check(),
    banner: (soFar) => (rights.who === undefined ? soFar : { ...soFar, besides: [...soFar.besides, has] }),
    barAlone: () => {
      const { who } = rights;
      return who === undefined ? undefined : { who, what: has };
    },
    close: () => {
      off();
      return rights.close();
    },
  };
}

/** The rights of this computer's administrator, for what other abilities need. */
export const administratorRights: HostAbility = {
  name: 'administrator-rights',
  whyNot: (_permission, ports) => whyWithout(ports, 'rights'),
  warn: ({ words, firstName }) => words.administratorRights.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.rights, (port) => beginRights(kit, port)),
};
