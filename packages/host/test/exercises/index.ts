import type { Captured } from '@porch/client';
import { encodeSound, inputChannel, type CameraMessage, type InputMessage, type SoundMessage } from '@porch/wire';
import { RunbookAction, textOfAction } from '@porch/core';
import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { camera } from '../../src/abilities/camera/camera.ts';
import { clipboard } from '../../src/abilities/clipboard.ts';
import { checkWords } from '../../src/abilities/check-words.ts';
import { commandLine } from '../../src/abilities/command-line/index.ts';
import { drawing } from '../../src/abilities/drawing.ts';
import { files } from '../../src/abilities/files/index.ts';
import { handsOff } from '../../src/abilities/hands-off.ts';
import { input } from '../../src/abilities/input.ts';
import { ownScreen } from '../../src/abilities/own-screen.ts';
import { picture } from '../../src/abilities/picture/picture.ts';
import { desktops } from '../../src/abilities/desktops/index.ts';
import { prints } from '../../src/abilities/prints/index.ts';
import { programs } from '../../src/abilities/programs/index.ts';
import { administratorRights } from '../../src/abilities/administrator-rights/index.ts';
import { restartAndReturn } from '../../src/abilities/restart-and-return/index.ts';
import { runbook } from '../../src/abilities/runbook/index.ts';
import { safePoints } from '../../src/abilities/safe-points.ts';
import { screenshot } from '../../src/abilities/screenshot.ts';
import { sound } from '../../src/abilities/sound.ts';
import { speaking } from '../../src/abilities/speaking.ts';
import { systemReport } from '../../src/abilities/system-report.ts';
import type {
  CommandLinePort,
  DesktopsPort,
  Copied,
  PrinterOrder,
  ProgramsPort,
  RestartPort,
  RightsPort,
  RunbookPort,
  SafePointsPort,
  ScreenSource,
  SealingCodecs,
} from '../../src/index.ts';
import type { Exercise, ModelWorld } from '../model-world.ts';

const typeOf = (message: unknown): string => (message as { type?: string }).type ?? '';
const codecs: SealingCodecs = {
  deflate: (bytes) => deflateRawSync(bytes, { level: 1 }),
  encodeJpeg: undefined,
  seal: ({ header, clear, plain }) => {
    const bytes = new Uint8Array(header.length + 2 + clear.length + plain.length + 16);
    bytes.set(header);
    return bytes;
  },
};
/** A computer of one port and one service. */
const programsThere = (world: ModelWorld): ProgramsPort => ({
  open: () => ({
    read: () => {
      world.did('a list of programs was read');
      const row = { id: 'a', protocol: 'tcp', address: '127.0.0.1', port: 631, reach: 'this-computer' } as const;
      return Promise.resolve([row]);
    },
  }),
  plan: () => {
    world.did('a service was looked at');
    const act = (may: () => boolean) => {
      if (may()) world.did('a service was stopped');
      return Promise.resolve({ outcome: 'done', says: '' } as const);
    };
    return Promise.resolve({ name: 'gate-scanner', hanging: [], services: [], wakers: [], act });
  },
});
const scriptAction = RunbookAction.parse({
  ...{ name: 'a-script', title: 'A script', kind: 'script', interpreter: 'sh', body: 'echo' },
});
/** A computer on which scripts end as soon as they begin. */
const RESTART_ID = '00000000-0000-4000-8000-0000000000aa';
const restartThere = (world: ModelWorld): RestartPort => ({
  ...{ computer: 'tern-quay-04', account: 'bettina', returned: undefined },
  look: () => Promise.resolve({ hits: [], hows: ['restart'], canSignIn: false }),
  keep: () => Promise.resolve(),
  goDown: () => {
    world.did('the computer went down');
    return Promise.resolve();
  },
  stayUp: () => undefined,
  onGoingDown: () => () => undefined,
});
/** A computer at which somebody else is signed in, who comes at once. */
const desktopsThere = (world: ModelWorld): DesktopsPort => ({
  list: () =>
    Promise.resolve([
      { desktop: '7', account: 'samir', name: 'Samir Oduya', kind: 'person', isInFront: false, sinceMs: 0 },
    ]),
  onChanged: () => () => undefined,
  ring: (_desktop, _link, signal, begun) => {
    if (signal.aborted) return Promise.resolve('not-answered');
    begun();
    world.did('somebody was asked');
    return Promise.resolve('came');
  },
});
const rightsThere = (world: ModelWorld): RightsPort => ({
  possible: () => Promise.resolve({ password: true }),
  byLeave: () => Promise.reject(new Error('nobody gave leave')),
  byPassword: (_put, signal) => {
    if (!signal.aborted) world.did('rights were raised');
    let end = () => undefined as void;
    const gone = new Promise<{ mayGoOn: boolean }>((resolve) => (end = () => resolve({ mayGoOn: false })));
    return Promise.resolve({
      run: () => Promise.resolve({ code: 0, mayGoOn: false }),
      service: () => Promise.resolve({ outcome: 'done', says: '' }),
      putBack: () => Promise.resolve({ code: 0, mayGoOn: false }),
      signInOnce: () => Promise.resolve(),
      lower: () => end(),
      gone,
    });
  },
});
const runbookThere = (world: ModelWorld): RunbookPort => ({
  platform: 'linux',
  howRun: () => {
    world.did('how a script would be run was found out');
    return Promise.resolve({ command: ['sh', 'script'], folder: '/', mayGoOn: false });
  },
  run: (_script, may, print) => {
    if (may()) {
      world.did('a script was run');
      print('here');
    }
    return Promise.resolve({ code: 0, mayGoOn: false });
  },
  whereTo: () => Promise.resolve({ path: '/', isThere: false }),
  put: () => Promise.resolve(),
});
/** A computer whose command lines say something and end. */
const commandLineThere = (world: ModelWorld): CommandLinePort => ({
  open: (_asked, may, on) => {
    if (!may()) return Promise.reject(new Error('not allowed'));
    world.did('a command line was begun');
    setImmediate(() => on.printed(new TextEncoder().encode('here')));
    return Promise.resolve({
      ...{ program: '/bin/sh', folder: '/', mayGoOn: false, columns: 80 },
      write: () => {
        world.did('something was typed');
        return true;
      },
      ...{ resize: () => undefined, setReading: () => undefined, end: () => undefined, rows: () => ['here'] },
      screen: () => Promise.resolve(new TextEncoder().encode('here')),
      ended: new Promise((resolve) => setImmediate(() => resolve({ code: 0, mayGoOn: false }))),
    });
  },
});
/** A computer on which one file is saved. */
const safePointsThere = (world: ModelWorld): SafePointsPort => ({
  make: ({ name, touches: { paths } }) => {
    world.did('files were saved');
    const counts = { files: 1, sizeBytes: 1, services: 0, packages: 0 };
    const told = { isOfThisSession: true, isUsed: false };
    return Promise.resolve({ id: crypto.randomUUID(), name, madeAtMs: 1, paths, ...counts, ...told });
  },
  list: () => Promise.resolve([]),
  compare: () => Promise.resolve([]),
  rightsFor: () => Promise.resolve({ packages: [], services: [] }),
  undo: () => Promise.resolve({ count: 0, left: [] }),
  touchesOf: () => Promise.resolve({ name: 'before', touches: { paths: [], services: [], hasPackages: false } }),
  keep: () => Promise.resolve(),
  drop: () => Promise.resolve(),
  dropUnkept: () => Promise.resolve(),
});
const MONITOR = { x: 0, y: 0, width: 128, height: 64 };
/** A screen that changes whenever somebody looks at it. */
const screen = (): ScreenSource => ({
  size: () => MONITOR,
  watchScreen: (watcher) => {
    watcher.onMonitors([{ name: 'HARBOUR', rect: MONITOR }]);
    return Promise.resolve(() => undefined);
  },
  answers: () => Promise.resolve(),
  captureAll: () => undefined,
  hideWallpaper: () => Promise.resolve(),
  isWallpaperHidden: false,
});

const printers = new WeakMap<ModelWorld, PrinterOrder>();
const plays = new WeakMap<ModelWorld, (captured: Captured) => void>();
const speaks = new WeakMap<ModelWorld, (captured: Captured) => void>();
const said = new WeakMap<ModelWorld, number>();
const listen = { type: 'listen', isOn: true, got: 0, lost: 0, lateMs: 0 } satisfies SoundMessage;
const copies = new WeakMap<ModelWorld, (copied: Copied) => void>();
let inputLease = '';
const inputs = new WeakMap<ModelWorld, { lease: string; number: number }>();

/** How each ability is made to act; what one more needs is a row here. */
export const exercises: readonly Exercise[] = [
  {
    ability: screenshot,
    permissions: ['view-screen', 'take-screenshot'],
    mostFromFlood: 4,
    ports: () => ({ screen: screen(), codecs }),
    prepare: ({ kit }) => {
      kit.shared.pixels = () => ({ width: 16, height: 16, pixels: new Uint32Array(256) });
    },
    act: (world) => world.say('screenshot', { type: 'take', screenshotId: crypto.randomUUID(), display: 0 }),
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: systemReport,
    permissions: ['read-system-report'],
    // Two parts are read and sent, and that there are no more.
    mostFromFlood: 5,
    ports: (world) => ({
      system: {
        parts: ['sound', 'battery'],
        read: (part) => {
          world.did('something of the computer was read');
          const values = { sound: { isServed: true, cards: [] }, battery: { isThere: false } };
          return Promise.resolve(values[part as keyof typeof values] as never);
        },
      },
    }),
    act: (world) => world.say('system-report', { type: 'read', reportId: crypto.randomUUID() }),
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: programs,
    permissions: ['inspect-programs', 'change-programs'],
    // Eight lists are read and sent whole, and four acts looked at, told and done.
    mostFromFlood: 40,
    ports: (world) => ({ programs: programsThere(world) }),
    act: (world) => {
      world.say('programs', { type: 'watch', watchId: crypto.randomUUID(), list: 'ports' });
      const actId = crypto.randomUUID();
      world.say('programs', { type: 'prepare', actId, act: 'stop', target: 'person/gate-scanner.service' });
      // Once what it hits is known.
      setImmediate(() => world.say('programs', { type: 'act', actId }));
    },
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: safePoints,
    permissions: ['make-safe-points'],
    // Three are made at once; each is saved and said.
    mostFromFlood: 8,
    ports: (world) => ({ safePoints: safePointsThere(world) }),
    act: (world) => {
      const touches = { paths: ['labels'], services: [], hasPackages: false };
      world.say('safe-points', { type: 'make', id: crypto.randomUUID(), name: 'before', touches });
    },
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: runbook,
    permissions: ['run-runbook'],
    // Four are looked at, run, and told of.
    mostFromFlood: 20,
    ports: (world) => ({ runbook: runbookThere(world) }),
    act: (world) => {
      const [runId, text] = [crypto.randomUUID(), textOfAction(scriptAction)];
      const hash = createHash('sha256').update(text).digest('hex');
      const { slices } = world.connection.state;
      const chosen = { byId: 'pim', actionId: runId, title: 'A script', version: 1, kind: 'script', hash } as const;
      const run = { ...chosen, isDraft: false, standing: 'chosen', outcome: undefined, steps: 0, ticked: [] } as const;
      world.become({ slices: { ...slices, runbook: { ...slices.runbook, [runId]: run } } });
      world.say('runbook', { type: 'look', runId, text, values: {} });
      // Once how it would be run is known.
      setImmediate(() => world.say('runbook', { type: 'run', runId }));
    },
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: prints,
    permissions: ['take-prints'],
    // As much as is held for somebody who fetches nothing, and the printer itself.
    mostFromFlood: 32,
    ports: (world) => ({
      prints: {
        open: (order) => {
          world.did('a printer was added');
          printers.set(world, order);
          return Promise.resolve({ close: () => Promise.resolve() });
        },
      },
    }),
    // Somebody prints, whether anybody may have it or not.
    act: (world) => {
      printers.get(world)?.take({ title: 'Boarding pass', bytes: new Uint8Array(8), sha256: '0'.repeat(64) });
    },
    isOutward: (_channel, message) => !['refused', 'printer'].includes(typeOf(message)),
  },
  {
    ability: desktops,
    permissions: ['call-desktops'],
    // The list, one ring, that it rings, and what came of it.
    mostFromFlood: 12,
    ports: (world) => ({ desktops: desktopsThere(world) }),
    act: (world) => {
      world.say('desktops', { type: 'look' });
      world.say('desktops', { type: 'ring', id: crypto.randomUUID(), desktop: '7', link: 'http://127.0.0.1/join/a' });
    },
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: restartAndReturn,
    permissions: ['restart-computer'],
    ports: (world) => ({ restart: restartThere(world) }),
    // Once at a time: what is wanted beside it is refused.
    mostFromFlood: 4,
    act: (world) => {
      const id = RESTART_ID;
      const { slices } = world.connection.state;
      // As once the ledger says that it goes down.
      const away = {
        restartId: id,
        how: 'restart',
        step: 'going-down',
        sinceMs: 0,
        lateAtMs: 0,
        isLate: false,
      } as const;
      world.become({ slices: { ...slices, 'restart-and-return': { ...slices['restart-and-return'], away } } });
      world.say('restart-and-return', { type: 'restart', id, how: 'restart' });
    },
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: administratorRights,
    permissions: ['raise-rights'],
    // Once for one technician: raised, told, and given back.
    mostFromFlood: 4,
    ports: (world) => ({ rights: rightsThere(world) }),
    act: (world) =>
      world.say('administrator-rights', { type: 'raise', id: crypto.randomUUID(), way: 'password', what: 'a driver' }),
    isOutward: (_channel, message) => typeOf(message) !== 'refused',
  },
  {
    ability: commandLine,
    permissions: ['use-command-line'],
    // One at a time: begun, told of, typed on, and its end.
    mostFromFlood: 8,
    ports: (world) => ({
      commandLine: commandLineThere(world),
      linesWindow: { open: () => ({ show: () => undefined, close: () => undefined }) },
    }),
    act: (world) => {
      const lineId = crypto.randomUUID();
      world.say('command-line', { type: 'open', lineId, folder: '', columns: 80, rows: 24 });
      world.say('command-line', { type: 'keys', lineId, text: 'ls\r' });
    },
    isOutward: (_channel, message) => !['refused', 'rests'].includes(typeOf(message)),
  },
  {
    ability: files,
    permissions: ['fetch-files'],
    mostFromFlood: 8,
    ports: (world) => ({
      files: {
        sinkFor: () => Promise.reject(new Error('nothing is given here')),
        find: (path) => {
          world.did('a file was looked at');
          const open = () => Promise.reject(new Error('not opened here'));
          const about = { path, folder: '/', shownPath: path, sizeBytes: 1, isFolder: false, leftOut: 0, open };
          return Promise.resolve({ ...about, whyNever: 'a test' });
        },
        freeBytes: () => Promise.resolve(0),
        isThere: () => Promise.resolve(false),
        forgetPieces: () => Promise.resolve(),
        folder: () => Promise.reject(new Error('not looked at here')),
        names: () => Promise.reject(new Error('not looked at here')),
      },
    }),
    act: (world) => world.say('file', { type: 'fetch', requestId: crypto.randomUUID(), path: 'Documents/a.txt' }),
    isOutward: (_channel, message) => typeOf(message) !== 'fetchRefused',
  },
  {
    ability: input,
    permissions: ['view-screen', 'control-input'],
    mostFromFlood: 300,
    ports: (world) => ({
      hands: {
        movePointer: () => undefined,
        button: () => world.did('a button'),
        wheel: () => world.did('the wheel'),
        key: (_key, _isDown, may) => Promise.resolve(may() ? world.did('a key') : undefined),
        type: () => Promise.resolve(0),
        releaseAll: () => undefined,
        answers: () => Promise.resolve(),
      },
    }),
    prepare: ({ kit }) => {
      kit.shared.aim = () => ({ generation: 1, monitor: MONITOR, newest: 1, replacedAtMs: () => undefined });
    },
    act: (world) => {
      // As a program does it: a lease first, and a new one whenever the last is over.
      world.say('input', { type: 'openLease' } satisfies InputMessage);
      inputs.set(world, { lease: inputLease, number: 1 });
      world.say('input', {
        type: 'input',
        lease: inputLease,
        number: 1,
        aimedAtUpdate: 1,
        act: { act: 'button', x: 1, y: 1, button: 'left', isDown: true },
      } satisfies InputMessage);
    },
    isOutward: (channel, message) => {
      const said = inputChannel.message.safeParse(message);
      if (channel === 'input' && said.data?.type === 'leaseOpened') inputLease = said.data.lease;
      return false;
    },
  },
  {
    ability: picture,
    permissions: ['view-screen'],
    // Whoever comes gets a key and the list of monitors.
    mostFromFlood: 2_000,
    ports: () => ({ screen: screen(), codecs }),
    act: (world) => {
      // A viewer that comes anew is given a key.
      world.look([]);
      world.look([{ seat: 1, displays: [0] }]);
    },
  },
  {
    ability: drawing,
    permissions: ['view-screen', 'draw-on-screen'],
    mostFromFlood: 1_000,
    ports: (world) => ({
      // What goes is no act of a technician's.
      ink: {
        isInPicture: false,
        showMarks: (marks) => Promise.resolve(marks.length ? world.did('a mark') : undefined),
        onOwnMark: () => () => undefined,
      },
    }),
    act: (world) => world.say('drawing', { type: 'mark', mark: { kind: 'pen', points: [{ x: 0.1, y: 0.2 }] } }),
  },
  {
    ability: clipboard,
    permissions: ['control-input', 'give-clipboard', 'read-clipboard'],
    // The first copy and the last one, and one thing that is put there.
    mostFromFlood: 4,
    ports: (world) => ({
      clipboard: {
        follow: (_mostBytes, listener) => {
          copies.set(world, listener);
          return () => copies.delete(world);
        },
        bytesOf: () => new Uint8Array(4),
        put: () => Promise.resolve(world.did('something was put there')),
      },
    }),
    act: (world) => {
      // Somebody there copies something, and the technician puts something there: nothing of either without leave.
      copies.get(world)?.({ number: 1, parts: [{ kind: 'text', sizeBytes: 4 }], files: [] });
      world.say('clipboard', { type: 'put', copyId: crypto.randomUUID(), kind: 'text', sizeBytes: 0 });
    },
    isOutward: (_channel, message) => typeOf(message) !== 'refused' && typeOf(message) !== 'placed',
  },
  {
    ability: sound,
    permissions: ['view-screen', 'hear-sound'],
    mostFromFlood: 1_000,
    ports: (world) => ({
      sound: {
        capturePrograms: (take) => {
          plays.set(world, take);
          return { setBitrate: () => undefined, stop: () => undefined };
        },
      },
    }),
    act: (world) => {
      // Something plays there, whether anybody may hear it or not.
      world.say('sound', listen);
      plays.get(world)?.({ channels: 2, opus: new Uint8Array(8), silentFrames: 0, peak: 1 });
    },
  },
  {
    ability: speaking,
    permissions: ['speak-together'],
    mostFromFlood: 2_000,
    ports: (world) => ({
      voice: {
        openMicrophone: (take) => {
          speaks.set(world, take);
          return { setBitrate: () => undefined, setMuted: () => undefined, stop: () => undefined };
        },
        speaker: () => ({ peak: 0, take: () => world.did('a voice'), close: () => undefined }),
      },
    }),
    act: (world) => {
      // Both speak, whether anybody may hear it or not.
      world.say('voice', listen);
      speaks.get(world)?.({ channels: 1, opus: new Uint8Array(8), silentFrames: 0, peak: 1 });
      const number = (said.get(world) ?? 0) + 1;
      said.set(world, number);
      world.sayPlain('voice', encodeSound({ number, isFirst: true, channels: 1, opus: new Uint8Array(8) }));
    },
    // Whether a microphone is open is said once to each who may hear it, and each second again.
    isOutward: (_channel, message) => message === 'a piece',
  },
  {
    ability: camera,
    permissions: ['see-camera'],
    // One picture each half second, and what moves as fast as a hand does.
    mostFromFlood: 20,
    ports: (world) => ({
      camera: {
        open: () =>
          Promise.resolve({
            hasLight: true,
            isLightOn: false,
            setLight: () => Promise.resolve(world.did('the light')),
            next: () => Promise.resolve({ width: 16, height: 9, jpeg: new Uint8Array(64) }),
            fullSize: () => Promise.resolve({ width: 32, height: 18, jpeg: new Uint8Array(64) }),
            close: () => undefined,
          }),
      },
    }),
    act: (world) => {
      // As if everything had arrived that ever was sent.
      world.say('camera', { type: 'next', got: 1_000_000_000 } satisfies CameraMessage);
      const pictureId = crypto.randomUUID();
      world.say('camera', { type: 'take', pictureId } satisfies CameraMessage);
      world.say('camera', { type: 'want', pictureId, offset: 0 } satisfies CameraMessage);
      world.say('camera', { type: 'light', isOn: true } satisfies CameraMessage);
    },
    // How it stands is said again and again to whoever may.
    isOutward: (_channel, message) => message === 'a piece' || typeOf(message) === 'taken',
  },
  {
    ability: ownScreen,
    permissions: ['show-own-screen'],
    // A second each, however often somebody begins.
    mostFromFlood: 1,
    ports: (world) => ({
      shownScreen: {
        open: () => {
          world.did('a window');
          return {
            display: 0,
            from: 1,
            setKey: () => world.did('a key'),
            take: () => undefined,
            challenge: () => Promise.resolve({ nonce: '0'.repeat(16), needsTable: false }),
            holds: () => Promise.resolve(new Uint8Array(0)),
            onResync: () => undefined,
            forget: () => undefined,
            close: () => undefined,
          };
        },
      },
    }),
    act: (world) => {
      const shown = { showingId: crypto.randomUUID(), byId: 'pim', what: 'window' } as const;
      world.become({ slices: { ...world.connection.state.slices, 'own-screen': { shown } } });
    },
    // What the technician hears is that their own picture is looked at.
    isOutward: () => false,
  },
  {
    ability: handsOff,
    permissions: ['control-input', 'block-input', 'cover-screen'],
    // Each of the two once.
    mostFromFlood: 2,
    ports: (world) => ({
      handsOff: {
        canCover: true,
        begin: (what) => {
          world.did(what);
          return { end: () => Promise.resolve() };
        },
      },
    }),
    prepare: ({ connection }) => {
      // The session says of all of it that it is allowed: what this computer holds decides.
      const allowed = { name: 'allowed', grantNumber: 1, endsAtMs: 1e12 } as const;
      const standings = { pim: { 'block-input': allowed, 'cover-screen': allowed } };
      Object.assign(connection, { state: { ...connection.state, identity: 'confirmed-by-ticket', standings } });
    },
    act: (world) => world.say('hands-off', { type: 'keep' }),
  },
  {
    ability: checkWords,
    permissions: ['view-screen'],
    // One try for each start of a program.
    mostFromFlood: 1,
    ports: () => ({}),
    act: (world) => {
      world.look([{ seat: 1, displays: [0] }]);
    },
  },
];

/** Those without an exercise, and why. */
export const without: Readonly<Record<string, string>> = {
  presence: 'it holds others back and sends nothing but facts',
  'one-program': 'it narrows others and sends nothing but facts',
  passwords: 'it holds others back and sends nothing but facts',
  standing: 'at the door nothing is allowed yet: its own test has the second secret',
};
