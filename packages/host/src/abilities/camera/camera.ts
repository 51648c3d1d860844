import { beginWith, type HostAbility } from '../../kit.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import { CameraDesk } from './camera-desk.ts';

/** Shows what a camera here sees, to those who may, while they look. */
export const camera: HostAbility = {
  name: 'camera',
  whyNot: (_permission, ports) => whyWithout(ports, 'camera'),
  warn: ({ words, firstName }) => words.camera.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.camera, (port) => new CameraDesk(kit, port)),
};
