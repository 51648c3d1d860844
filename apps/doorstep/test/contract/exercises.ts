import { FileTransfers, TechnicianScreenshots, type InputLease } from '@porch/client';
import type { Permission } from '@porch/core';
import type { RealWorld } from './real-world.ts';

/** How one ability is made to act on a real desktop, and how what came of it is measured without asking the ability. */
export interface RealExercise {
  /** As the ability is called in the list. */
  readonly ability: string;
  /** Asked one after the other. */
  readonly permissions: readonly Permission[];
  /** Ready to act as soon as it may: `act` is called again and again, allowed or not. */
  begin(world: RealWorld): { act(): unknown; close(): unknown };
  /** What has left the computer, or was done on it, so far. */
  effects(world: RealWorld): number;
}

const pressing = (lease: InputLease): void => {
  // An opening that the relay passed to nobody is never answered.
  if (lease.state.name === 'opening') lease.release();
  lease.open();
  for (const isDown of [true, false]) lease.act({ act: 'key', key: 'Shift', isDown });
};

/** What one more ability needs is a row here. */
export const exercises: readonly RealExercise[] = [
  {
    ability: 'picture',
    permissions: ['view-screen'],
    begin: (world) => ({ act: () => world.draw(), close: () => undefined }),
    effects: ({ tap }) => tap.left('screen', 'cursor', 'picture'),
  },
  {
    ability: 'input',
    permissions: ['control-input'],
    begin: ({ seen }) => ({ act: () => pressing(seen.lease), close: () => seen.lease.close() }),
    effects: ({ counter, tap }) => counter.presses + tap.left('input'),
  },
  {
    ability: 'files',
    permissions: ['fetch-files'],
    begin: ({ technician, holderSeat }) => {
      const transfers = new FileTransfers(technician);
      return {
        // It is asked for by a path that is not there: even whether it is there is nobody's business without leave.
        act: () =>
          transfers.tell(holderSeat(), { type: 'fetch', requestId: crypto.randomUUID(), path: 'no-such-file' }),
        close: () => transfers.close(),
      };
    },
    effects: ({ tap }) => tap.left('file'),
  },
  {
    ability: 'screenshot',
    permissions: ['take-screenshot'],
    begin: ({ technician }) => {
      const shots = new TechnicianScreenshots(technician);
      return { act: () => shots.take(0).catch(() => undefined), close: () => shots.close() };
    },
    effects: ({ tap }) => tap.left('screenshot'),
  },
];
/** Those of the list that do nothing at a technician's word on this desktop, and why. */
export const noExercise: Readonly<Record<string, string>> = {
  drawing: 'this desktop has no copy to draw on',
  'check-words': 'exchanged as soon as somebody may look; a question is all that they can bring about',
  presence: 'is the customer’s own',
  standing: 'made by three answers of the customer; its own tests walk a whole visit',
};
