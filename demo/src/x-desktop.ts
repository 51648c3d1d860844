import { mkdirSync, writeFileSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import type { ChildProcess } from 'node:child_process';
import { giveTo, type Account } from './account.ts';
import { standInCamera, type Camera } from './camera.ts';
import type { ComputerOptions } from './computer/computer-options.ts';
import { StandInComputer } from './computer/stand-in-computer.ts';
import type { Processes, Starter } from './processes.ts';
import { startSessionBus, type SessionBus } from './session-bus.ts';
import { soundLived, startSound, type Sound } from './sound.ts';
import { hasWindowManager, READY_MS, waitForWindow, waitOn } from './x-windows.ts';

export interface DesktopOptions {
  readonly name: string;
  readonly home: string;
  readonly width?: number;
  readonly height?: number;
  readonly programs?: 'all' | 'none' | 'editor';
  /** An extension that its X server does without. */
  readonly lacks?: 'XTEST' | 'DAMAGE' | 'Composite';
  /** With a sound server of its own. */
  readonly hasSound?: boolean;
  /** With a message bus of its own, through which programs tell what they show. */
  readonly hasBus?: boolean;
  /** It has a stand-in camera: how that is started there. */
  readonly camera?: readonly string[] | undefined;
  /** Whose desktop it is; ours without one. */
  readonly account?: Account | undefined;
  /** With a computer of its own, at which that person is signed in; `home` lies in it. */
  readonly computer?: Omit<ComputerOptions, 'width' | 'height'> & { readonly signsIn: string };
}

export interface XDesktop {
  /** By which it is reached from outside: a person's hands, and who looks at it. */
  readonly display: string;
  /** By which programs that run on it reach it. */
  readonly displayThere: string;
  /** Starts programs on it, as its person. */
  readonly starter: Starter;
  readonly computer?: StandInComputer;
  readonly home: string;
  readonly settingsFile: string;
  readonly server: ChildProcess;
  readonly sound?: Sound;
  readonly bus?: SessionBus;
  /** What its programs are started with. */
  readonly env: NodeJS.ProcessEnv;
  readonly camera?: Camera;
}

const NO_BUS = 'disabled:';

/** What Doorstep is called with for what this desktop has beside its screen. */
export const besideTheScreen = ({ sound, camera, bus }: XDesktop): { args: string[]; env: NodeJS.ProcessEnv } => ({
  args: camera ? ['--cameras', camera.devices] : [],
  env: { DBUS_SESSION_BUS_ADDRESS: NO_BUS, ...bus?.env, ...sound?.env, ...camera?.env },
});

const printerSettings = `# Boarding-pass printer, Tern Quay office
model      = Quayprint 80
paper      = pass-80x180
resolution = 203
# the driver update of Monday set this to half
barcode-height = 12
margin-left    = 4
`;

/**
 * A real X11 desktop: an X server that draws into memory, a window manager, and small programs that a customer would have
 * open. With a computer of its own it is signed in to as on any; else only its programs run as somebody else.
 */
export async function startDesktop(processes: Processes, options: DesktopOptions): Promise<XDesktop> {
  const { name, home, programs = 'all' } = options;
  const account = options.computer ? accountAt(options.computer) : options.account;
  const settingsFile = furnish(home);
  const camera = options.camera === undefined ? undefined : standInCamera(options.camera, home);
  if (options.computer) beginWithSignIn(home, programsOf(options, settingsFile));
  if (account) giveTo(account, home);
  const screen = options.computer
    ? await startComputer(processes, options, options.computer)
    : await startScreen(processes, options);
  const { display, starter } = screen;
  // Who is signed in at a computer has a message bus, wanted or not.
  const bus = options.hasBus
    ? await startSessionBus(starter, { name, home, display, account, daemon: screen.computer?.keeper })
    : undefined;
  const env = {
    ...process.env,
    DISPLAY: display,
    HOME: home,
    XDG_CONFIG_HOME: join(home, '.config'),
    XDG_CACHE_HOME: join(home, '.cache'),
    XDG_DATA_HOME: join(home, '.local', 'share'),
    XDG_RUNTIME_DIR: home,
    LANG: 'C.UTF-8',
    ...(bus ? bus.env : { NO_AT_BRIDGE: '1', DBUS_SESSION_BUS_ADDRESS: NO_BUS }),
  };
  const run = (command: string, args: readonly string[]) =>
    starter.start(`${command} of ${name}`, command, args, { env, cwd: home, stdio: 'ignore', ...account });
  if (!screen.computer) run('openbox', ['--config-file', join(home, '.config', 'openbox', 'rc.xml')]);
  // Who comes before the window manager is not placed by it.
  await waitOn(display, 'the window manager', hasWindowManager);
  if (!screen.computer) for (const [command, args] of programsOf(options, settingsFile)) run(command, args);
  if (programs !== 'none') await waitForWindow(display, /printer-settings/);
  const sound = options.hasSound ? await startSound(starter, { name, home, account }) : undefined;
  if (sound && programs === 'all') soundLived(sound, home, account);
  return {
    ...screen,
    ...{ home, settingsFile, env },
    ...(sound ? { sound } : {}),
    ...(camera ? { camera } : {}),
    ...(bus ? { bus } : {}),
  };
}

/** The files of somebody who sells passes at Tern Quay, and where their windows open; with that of the printer's settings. */
function furnish(home: string): string {
  mkdirSync(join(home, 'Documents'), { recursive: true });
  const settingsFile = join(home, 'Documents', 'printer-settings.conf');
  if (!existsSync(settingsFile)) writeFileSync(settingsFile, printerSettings);
  const notes = join(home, 'Documents', 'sailings.txt');
  if (!existsSync(notes)) writeFileSync(notes, '07:10 Tern Quay to Lower Saltby\n08:25 Lower Saltby to Tern Quay\n');
  writeOpenboxRules(home);
  return settingsFile;
}

type Program = readonly [command: string, args: readonly string[]];

/** What is open there: at a computer of their own whenever they sign in. */
function programsOf({ programs = 'all', home }: DesktopOptions, settingsFile: string): readonly Program[] {
  const looks = ['-T', 'Terminal', '-fa', 'DejaVu Sans Mono', '-fs', '10', '-geometry', '64x14'];
  const editor: readonly Program[] = [['mousepad', ['--disable-server', settingsFile]]];
  const rest: readonly Program[] = [
    ['pcmanfm', ['--no-desktop', join(home, 'Documents')]],
    ['xterm', [...looks, '-e', 'sh', '-c', 'echo Tern Quay ticket office; exec sh']],
    ['galculator', []],
  ];
  return [
    ['xsetroot', ['-solid', '#7d93a5']],
    ...(programs === 'none' ? [] : editor),
    ...(programs === 'all' ? rest : []),
  ];
}

/** By the Desktop Application Autostart Specification. */
function beginWithSignIn(home: string, programs: readonly Program[]): void {
  const folder = join(home, '.config', 'autostart');
  mkdirSync(folder, { recursive: true });
  for (const [command, args] of programs) {
    const exec = [command, ...args].map((word) => `"${word.replace(/(["`$\\])/g, '\\\\$1')}"`).join(' ');
    writeFileSync(
      join(folder, `${command}.desktop`),
      `[Desktop Entry]\nType=Application\nName=${command}\nExec=${exec}\n`,
    );
  }
}

function accountAt({ people, signsIn }: NonNullable<DesktopOptions['computer']>): Account {
  const person = people.find((one) => one.login === signsIn);
  if (!person) throw new Error(`${signsIn} has no account there`);
  return { uid: person.uid, gid: person.uid };
}

type Screen = Pick<XDesktop, 'server' | 'display' | 'displayThere' | 'starter' | 'computer'>;

async function startComputer(
  processes: Processes,
  { width = 1280, height = 800 }: DesktopOptions,
  options: NonNullable<DesktopOptions['computer']>,
): Promise<Screen> {
  const computer = await StandInComputer.boot(processes, { ...options, width, height });
  return {
    computer,
    ...{ server: computer.keeper, display: computer.display, displayThere: ':0' },
    starter: computer.startsFor(options.signsIn),
  };
}

/** The X server alone, with a number of its own. */
async function startScreen(processes: Processes, options: DesktopOptions): Promise<Screen> {
  const { name, width = 1280, height = 800, lacks, account } = options;
  const server = processes.start(
    `screen of ${name}`,
    'Xvfb',
    [
      ...['-displayfd', '3', '-screen', '0', `${width}x${height}x24`, '-nolisten', 'tcp', '-noreset'],
      ...(lacks ? ['-extension', lacks] : []),
    ],
    { stdio: ['ignore', 'ignore', 'ignore', 'pipe'], ...account },
  );
  const number = await new Promise<string>((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error('Xvfb was not ready in time')), READY_MS);
    server.once('exit', (code) => reject(new Error(`Xvfb ended with ${code}`)));
    (server.stdio[3] as NodeJS.ReadableStream).once('data', (part: Buffer) => {
      clearTimeout(timer);
      resolve(part.toString().trim());
    });
  });
  const display = `:${number}`;
  return { server, display, displayThere: display, starter: processes };
}

/** Where windows stand, so that a picture of the desktop looks the same each time. */
function writeOpenboxRules(home: string): void {
  const folder = join(home, '.config', 'openbox');
  mkdirSync(folder, { recursive: true });
  const place = (what: string, x: number, y: number, width?: number, height?: number) =>
    `<application name="${what}*" type="normal"><position force="yes"><x>${x}</x><y>${y}</y></position>${width ? `<size><width>${width}</width><height>${height}</height></size>` : ''}</application>`;
  writeFileSync(
    join(folder, 'rc.xml'),
    `<?xml version="1.0"?><openbox_config xmlns="http://openbox.org/3.4/rc"><resistance><strength>10</strength></resistance><focus><focusNew>yes</focusNew></focus>
    <theme><name>Clearlooks</name><font place="ActiveWindow"><name>DejaVu Sans</name><size>9</size></font></theme><desktops><number>1</number></desktops>
    <mouse><context name="Client"><mousebind button="Left" action="Press"><action name="Focus"/><action name="Raise"/></mousebind></context>
    <context name="Titlebar"><mousebind button="Left" action="Press"><action name="Focus"/><action name="Raise"/></mousebind><mousebind button="Left" action="Drag"><action name="Move"/></mousebind></context></mouse>
    <applications>${place('mousepad', 40, 70, 620, 420)}${place('pcmanfm', 700, 90, 520, 330)}${place('xterm', 690, 470)}${place('galculator', 60, 540)}</applications></openbox_config>`,
  );
}
