import type { HostAbility } from '../../kit.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import { FileDesk } from './file-desk.ts';

/** Takes files and folders that a technician gives, sends those that they may fetch, and shows names in folders. */
export const files: HostAbility = {
  name: 'files',
  whyNot: (_permission, ports) => whyWithout(ports, 'files'),
  warn: ({ permission, words }) => (permission === 'fetch-files' ? words.files.leaves : undefined),
  begin(kit) {
    const port = kit.ports.files;
    return port ? new FileDesk(kit, port) : { close: () => undefined };
  },
};
