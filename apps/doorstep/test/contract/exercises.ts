import {
  FileTransfers,
  TechnicianCamera,
  markColour,
  TechnicianClipboard,
  TechnicianCommandLine,
  TechnicianDrawing,
  TechnicianPrograms,
  technicianTalk,
  TechnicianReports,
  TechnicianRights,
  TechnicianRunbook,
  TechnicianSafePoints,
  TechnicianScreenshots,
  TechnicianSound,
  type InputLease,
} from '@porch/client';
import type { Permission } from '@porch/core';
import { Ears, PaintedDesktop, runbookInUse, showsOwn } from '@porch/testkit';
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

const OWN_COLOUR = 0xd0_10_20;

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
    ability: 'system-report',
    permissions: ['read-system-report'],
    begin: ({ technician }) => {
      const reports = new TechnicianReports(technician);
      return {
        act: () => reports.read(() => undefined).catch(() => undefined),
        close: () => reports.close(),
      };
    },
    effects: ({ tap }) => tap.left('system-report'),
  },
  {
    ability: 'programs',
    permissions: ['inspect-programs'],
    begin: ({ technician }) => {
      const programs = new TechnicianPrograms(technician);
      let stop = () => undefined as void;
      return {
        act: () => {
          stop();
          stop = programs.watch('ports', () => undefined);
        },
        close: () => programs.close(),
      };
    },
    effects: ({ tap }) => tap.left('programs'),
  },
  {
    ability: 'administrator-rights',
    permissions: ['raise-rights'],
    begin: ({ technician }) => {
      const rights = new TechnicianRights(technician, {
        giveRightsLeave: () => Promise.reject(new Error('never asked')),
      });
      return {
        act: () => rights.ways().catch(() => undefined),
        close: () => rights.close(),
      };
    },
    effects: ({ tap }) => tap.left('administrator-rights'),
  },
  {
    ability: 'safe-points',
    permissions: ['make-safe-points'],
    begin: ({ technician }) => {
      const points = new TechnicianSafePoints(technician);
      const touches = { paths: [], services: [], hasPackages: true };
      return {
        act: () => points.make('before', touches).catch(() => undefined),
        close: () => points.close(),
      };
    },
    effects: ({ tap }) => tap.left('safe-points'),
  },
  {
    ability: 'runbook',
    permissions: ['run-runbook'],
    begin: ({ technician, house }) => {
      const ready = Promise.all([house.signedIn(), runbookInUse(house).then((inUse) => inUse({ body: 'echo here' }))]);
      const begun = ready.then(([rest, action]) => ({ runbook: new TechnicianRunbook(technician, rest), action }));
      return {
        act: () => begun.then(({ runbook, action }) => runbook.look(action.id, action, {})).catch(() => undefined),
        close: () => begun.then(({ runbook }) => runbook.close()),
      };
    },
    effects: ({ tap }) => tap.left('runbook'),
  },
  {
    ability: 'command-line',
    permissions: ['use-command-line'],
    begin: ({ technician }) => {
      const line = new TechnicianCommandLine(technician);
      line.listeners.on('printed', (bytes) => line.took(bytes.length));
      return {
        act: () => {
          if (line.now) return line.keys('echo here\r');
          const asked = { lineId: line.newId(), folder: '', columns: 80, rows: 24 };
          return line.open(asked).catch(() => undefined);
        },
        close: () => line.close(),
      };
    },
    effects: ({ tap }) => tap.left('command-line', 'command-line-output'),
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
  {
    ability: 'drawing',
    permissions: ['draw-on-screen'],
    begin: (world) => {
      const pen = new TechnicianDrawing(world.technician, () => 0);
      let drawn = 0;
      return {
        // Somewhere else each time, and what was there before goes.
        act: () => {
          const y = 0.3 + (drawn++ % 40) / 100;
          pen.unmark('all');
          pen.mark(
            {
              kind: 'pen',
              points: [
                { x: 0.2, y },
                { x: 0.4, y },
              ],
            },
            0,
          );
        },
        close: () => pen.close(),
      };
    },
    effects: (world) => world.newColours(markColour(world.technician.seat)) + world.tap.left('drawing'),
  },
  {
    ability: 'clipboard',
    permissions: ['give-clipboard'],
    begin: (world) => {
      const clipboard = new TechnicianClipboard(world.technician);
      let put = 0;
      return {
        act: () => clipboard.put('text', Buffer.from(`harbour ${++put}`)).catch(() => undefined),
        close: () => clipboard.close(),
      };
    },
    effects: (world) => world.copies.count + world.tap.left('clipboard'),
  },
  {
    ability: 'sound',
    permissions: ['hear-sound'],
    begin: (world) => {
      const hearing = new TechnicianSound(world.technician, new Ears().speaker);
      return {
        act: () => {
          // Said each second from now on, as by a program that does not care what it may.
          hearing.setOn(true);
          world.play('speakers');
        },
        close: () => hearing.close(),
      };
    },
    effects: (world) => world.tap.left('sound'),
  },
  {
    ability: 'speaking',
    permissions: ['speak-together'],
    begin: (world) => {
      const talk = technicianTalk(world.technician, new Ears(500));
      const off = world.technician.on('entry', () => talk.changed());
      return {
        act: () => {
          talk.open();
          world.play('microphone');
        },
        close: () => {
          off();
          talk.close();
        },
      };
    },
    effects: (world) => world.tap.left('voice'),
  },
  {
    ability: 'camera',
    permissions: ['see-camera'],
    begin: ({ technician }) => {
      const camera = new TechnicianCamera(technician, () => undefined);
      return {
        act: () => {
          // Said each second from now on, as by a program that does not care what it may.
          camera.setOn(true);
          camera.setLight(true);
          camera.take().catch(() => undefined);
        },
        close: () => camera.close(),
      };
    },
    effects: ({ tap }) => tap.left('camera'),
  },
  {
    ability: 'own-screen',
    permissions: ['show-own-screen'],
    begin: ({ technician }) => {
      const { own, show } = showsOwn(technician);
      const painted = new PaintedDesktop(320, 200);
      return {
        act: () => {
          // A colour of its own, shown again whenever it is over.
          painted.fill(OWN_COLOUR);
          if (!own.what) show(painted).catch(() => undefined);
        },
        close: () => own.close(),
      };
    },
    // Whatever a technician shows, what leaves this computer says only that it is looked at.
    effects: (world) => world.newColours(`#${OWN_COLOUR.toString(16)}`) + world.tap.left('own-screen'),
  },
];
/** Those of the list that do nothing at a technician's word on this desktop, and why. */
export const noExercise: Readonly<Record<string, string>> = {
  desktops: 'only a whole computer knows who is signed in: desktops.test.ts',
  prints: 'a print system only a whole computer has: prints.test.ts',
  'restart-and-return': 'only a whole computer goes down: restart.test.ts',
  'check-words': 'exchanged as soon as somebody may look; a question is all that they can bring about',
  'hands-off': 'never comes together with fetching files; its own tests end it in each of these ways, and in more',
  presence: 'is the customer’s own',
  'one-program': 'is the customer’s own',
  passwords: 'is the customer’s own',
  standing: 'made by three answers of the customer; its own tests walk a whole visit',
};
