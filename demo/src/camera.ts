import { chmodSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** A stand-in camera of one computer: a device that is only a file, and a program that answers for it. */
export interface Camera {
  /** What Doorstep needs to find it. */
  readonly env: NodeJS.ProcessEnv;
  readonly devices: string;
  readonly isLit: boolean;
  /** Somebody pulls its cable, or puts it back. */
  unplug(): void;
  plug(): void;
  /** Another program uses it. */
  setBusy(isBusy: boolean): void;
}

/** `command`: how the stand-in is started there, as it was built. */
export function standInCamera(command: readonly string[], home: string): Camera {
  const devices = join(home, 'camera', 'devices');
  const programs = join(home, 'camera', 'bin');
  for (const folder of [devices, programs]) mkdirSync(folder, { recursive: true });
  const tool = join(programs, 'v4l2-ctl');
  writeFileSync(tool, `#!/bin/sh\nexec ${command.map((one) => `"${one}"`).join(' ')} "$@"\n`);
  chmodSync(tool, 0o755);
  const device = join(devices, 'video0');
  const plug = () => writeFileSync(device, '');
  plug();
  return {
    env: { PATH: `${programs}:${process.env['PATH'] ?? ''}` },
    devices,
    get isLit() {
      return existsSync(device) && readFileSync(device, 'utf8') === 'lit';
    },
    unplug: () => rmSync(device, { force: true }),
    plug,
    setBusy: (isBusy) => writeFileSync(device, isBusy ? 'busy' : ''),
  };
}
