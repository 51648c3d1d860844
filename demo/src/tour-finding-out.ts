import { createHash } from 'node:crypto';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { basename, join } from 'node:path';
import { z } from 'zod';
import { barcodeHeightMm } from './barcode-height.ts';
import { quayprintPackage } from './computer/quayprint.ts';
import { inSeconds } from './stopwatch.ts';
import type { TourKit } from './tour-hands-and-eyes.ts';

/** Her home is kept from one tour to the next, and one that broke off may have left a point. */
const POINT = `Before the settings, ${new Date().toISOString().slice(11, 19)}`;

/** A service of hers, which shows how full the printer's tray is. */
const TRAY = 'label-tray';
const MOST_TO_CHANGE_MS = 2_000;
/** What is aimed at; a busy or slow machine takes longer, and twice as long means that something waits in vain. */
const TO_PICTURE_MS = 3_000;
const MOST_TO_PICTURE_MS = 2 * TO_PICTURE_MS;

/** What her programs call the printer of this session. */
const PRINTER = 'Pim_Aldersey_support_session';

/** What the desk and her computer say before anything is touched, and what is saved before something is: resolves with that, as her computer itself says it. */
export async function findingOut(kit: TourKit): Promise<string> {
  const { porch, step, expect, whenSaid, bettina } = kit;
  const { computer } = bettina.desktop;
  step('What is known before anything is touched, and what changed at her computer');
  expect((await porch(['earlier'])).includes('The roll lay the wrong way up'), 'her earlier session is found');
  expect((await porch(['knowledge', '-s', 'MF-201'])).includes('barcode-cut-in-half'), 'so is the note on this fault');
  await porch(['ask', 'report']);
  const tookMs = await whenSaid(['report'], 'quayprint-driver 3.8 → 4.1 on Monday');
  expect(tookMs <= MOST_TO_CHANGE_MS, `what changed stands there after ${inSeconds(tookMs)} (2 s at most)`);
  const log = (await computer?.read('grep', 'upgrade quayprint-driver', '/var/log/dpkg.log')) ?? '';
  const [, day = ''] = /^(\S+) \S+ upgrade quayprint-driver:all 3\.8 4\.1\n$/.exec(log) ?? [];
  expect(new Date(day).getDay() === 1, `her computer's own package log says so, too: ${day}, a Monday`);

  step('Looking closer: what is installed and runs there');
  await porch(['look-closer'], 1);
  await porch(['ask', 'programs']);
  expect(
    /quayprint-driver +4\.1/.test(await porch(['look-closer', 'installed', '--match', 'quayprint'])),
    'the new driver is there',
  );
  await porch(['look-closer', '--most', '5']);
  await porch(['end-program', '1'], 1);

  step('Printing here: what comes out of her printer is seen at his side, half a barcode');
  await porch(['ask', 'runbook']);
  await porch(['ask', 'prints']);
  await oneTestPage(kit, false);

  step('A safe point: what is about to be changed is saved at her computer');
  await porch(['ask', 'safe']);
  await startTray(bettina);
  await porch(['make-safe-point', POINT, '--file', 'Documents', '--packages', '--service', TRAY]);
  const atThePoint = await stateOf(bettina);
  await porch(['keep-safe-point', POINT, '--days', '3']);
  return atThePoint;
}

/** As her programs would: hers, and not of the computer. */
async function asHer({ computer }: TourKit['bettina']['desktop'], script: string): Promise<string> {
  const child = computer?.startsFor('bettina').start(script, 'sh', ['-c', script]);
  let said = '';
  child?.stdout?.on('data', (part: Buffer) => (said += part.toString()));
  await new Promise((resolve) => child?.once('close', resolve));
  return said;
}
async function startTray({ desktop }: TourKit['bettina']): Promise<void> {
  const unit = '[Unit]\\nDescription=How full the label tray is\\n[Service]\\nExecStart=/bin/sleep infinity\\n';
  const [folder, manager] = ['~/.config/systemd/user', 'systemctl --user'];
  await asHer(desktop, `mkdir -p ${folder} && printf '${unit}' > ${folder}/${TRAY}.service`);
  await asHer(desktop, `${manager} daemon-reload && ${manager} start ${TRAY}`);
}
/** Hashes of her documents, and whether that service runs, as her computer says. */
async function stateOf({ desktop }: TourKit['bettina']): Promise<string> {
  const files = 'cd /home/bettina/Documents && find . -type f -exec sha256sum {} + | sort';
  return `${await desktop.computer?.read('sh', '-c', files)}${await asHer(desktop, `systemctl --user is-active ${TRAY}`)}`;
}

/** An action that the desk prepared: seen whole before it is run, and saved before by itself. */
export async function oneAction({ porch, step, expect, bettina }: TourKit): Promise<void> {
  const settings = () => readFileSync(bettina.desktop.settingsFile, 'utf8');
  // Her home is kept from one tour to the next.
  const height = settings().includes('barcode-height = 26') ? '27' : '26';
  const action = ['run-action', 'barcode-height', '--give', `HEIGHT=${height}`];
  step('A runbook action: exactly what would be done, then done, and all that it printed');
  const look = await porch([...action, '--only-look']);
  expect(look.includes('python3 script') && !settings().includes(`= ${height}`), 'it is seen, and nothing is done');
  const ran = await porch(action);
  expect(ran.includes(`${height} mm high`) && settings().includes(`= ${height}`), 'her file says so, too');
  expect((await porch(['safe-points'])).includes('barcode height'), 'what it changed was saved before');
}

/** Another version of a package, by her own administrator's password; she types it where nobody sees it. */
export async function administratorRights({ porch, step, expect, bettina }: TourKit): Promise<void> {
  const { computer } = bettina.desktop;
  const version = async () => (await computer?.read('dpkg-query', '-W', '-f', '${Version}', 'quayprint-driver')) ?? '';
  step(
    'Administrator rights: her own password, typed in a window that no picture shows; the old driver is there again',
  );
  await porch(['run-action', 'label-driver-version', '--give', 'VERSION=3.8'], 1);
  await porch(['ask', 'rights']);
  await porch(['raise-rights', 'put the driver of before Monday back']);
  await porch(['run-action', 'label-driver-version', '--give', 'VERSION=3.8']);
  expect((await version()) === '3.8', 'her own package list says 3.8');
  expect((await porch(['ledger'])).includes('With administrator rights:'), 'the ledger says by what');
  await porch(['lower-rights']);
  await porch(['rights']);
}

const Standings = z.object({ permissions: z.array(z.object({ permission: z.string(), standing: z.string() })) });
/** What is allowed, by names. */
async function allowedNow(quietly: TourKit['quietly']): Promise<string> {
  const { permissions } = Standings.parse(JSON.parse(await quietly(['status', '--json'])));
  return permissions
    .flatMap(({ permission, standing }) => (standing === 'allowed' ? [permission] : []))
    .sort()
    .join(' ');
}

/** Down and back twice: by her yes, and when its power is cut. Nothing is typed or asked for again. */
export async function restartAndReturn({
  porch,
  quietly,
  step,
  expect,
  until,
  watched,
  homes,
  bettina,
}: TourKit): Promise<void> {
  const { computer } = bettina.desktop;
  if (!computer) return;
  const picture = join(homes, 'after-restart.png');
  /** How many lines of the ledger say this. */
  const told = async (words: string) =>
    (await quietly(['ledger'])).split('\n').filter((line) => line.includes(words)).length;
  step(
    'Restart and return: she ticks what comes back; her computer goes down and is there again, then its power is cut',
  );
  await porch(['ask', 'restart']);
  await porch(['restart-check']);
  const allowed = () => allowedNow(quietly);
  const before = await told('Good morning');
  const { starts } = computer;
  const ledger = watched();
  const picturedMs = async () => {
    const begunAt = performance.now();
    await quietly(['picture', '-o', picture]);
    return performance.now() - begunAt;
  };
  /** What that command takes itself. */
  const commandMs = await picturedMs();
  /** How long after her desktop is there its picture is: that of this start, and not the last one of before. */
  const backAfterMs = async (nth: number) => {
    await computer.isUp(starts + nth);
    const desktopAt = performance.now();
    await until('it is back, and nothing was asked', () => ledger.soFar().split('The computer is back').length > nth);
    await picturedMs();
    return performance.now() - desktopAt - commandMs;
  };
  const going = porch(['restart-computer', '--wait']);
  const first = await backAfterMs(1);
  await going;
  expect(first <= MOST_TO_PICTURE_MS, `${inSeconds(first)} after her desktop (${inSeconds(TO_PICTURE_MS)} aimed at)`);
  await until('with what she said', async () => (await allowed()).includes('view-screen'));
  const agreed = await allowed();
  await computer.cutPower();
  computer.switchOn();
  const second = await backAfterMs(2);
  expect(
    second <= MOST_TO_PICTURE_MS,
    `after a cut of its power, too: ${inSeconds(second)} (${inSeconds(TO_PICTURE_MS)} aimed at)`,
  );
  await until('with exactly what she said', async () => (await allowed()) === agreed);
  expect((await told('Good morning')) === before && before > 0, 'it is the same conversation');
  ledger.stop();
  expect((await porch(['ledger'])).includes('As agreed before the restart'), 'the ledger says why');
}

/** A command line of hers, in her sight: typed on from a pipe, ended, and in the ledger as it stood there. */
export async function oneCommandLine({ porch, step, expect, bettina }: TourKit): Promise<void> {
  step('A command line at her computer, as her, in a window that she sees; it ends whole');
  await porch(['shell'], 1);
  await porch(['ask', 'command-line']);
  const said = await porch(['shell', 'Documents'], 0, 'pwd\nwc -l < printer-settings.conf\nsleep 600 &\nexit\n');
  expect(said.includes(`${bettina.desktop.home}/Documents`), 'it is hers, in her folder');
  expect((await porch(['ledger'])).includes('On the command line:'), 'what stood there is in the ledger');
}

/** Whatever was changed since is what it was, by one press; and so is that. */
export async function oneWayBack({ porch, step, expect, bettina }: TourKit, atThePoint: string): Promise<void> {
  step('Wrong fix, one press: files and a service are what they were, and going back can be gone back from');
  await porch(['ask', 'change']);
  await porch(['change-service', 'stop', TRAY, '--own', '--yes']);
  const compared = await porch(['compare-safe-point', POINT]);
  expect(compared.includes('printer-settings.conf: changed'), 'the settings are other than then');
  const changed = await stateOf(bettina);
  expect(changed !== atThePoint && changed.endsWith('inactive\n'), 'and her service stands still, her computer says');
  const begunAt = performance.now();
  await porch(['go-back', POINT]);
  const tookMs = performance.now() - begunAt;
  expect(
    (await stateOf(bettina)) === atThePoint,
    `every hash and the service as at the point, ${inSeconds(tookMs)} later`,
  );
  expect((await porch(['compare-safe-point', POINT])).includes('Nothing is other'), 'the point says so, too');
  await porch(['go-back', `Before going back to ${POINT}`]);
  expect((await stateOf(bettina)) === changed, 'and what was done since is there again');
  await porch(['drop-safe-point', POINT]);
}

/** The boarding pass as her driver prints it, at the technician's: before the fix half a barcode, and whole after it. */
export async function oneTestPage({ porch, expect, homes }: TourKit, isWhole: boolean): Promise<void> {
  const file = join(homes, isWhole ? 'pass-whole.pdf' : 'pass-cut.pdf');
  await porch(['prints']);
  await porch(['run-action', 'print-test-page', '--give', `QUEUE=${PRINTER}`]);
  await porch(['prints', '--wait', '30']);
  await porch(['save-print', '-o', file]);
  const height = barcodeHeightMm(readFileSync(file));
  expect(
    isWhole === height >= 23.9,
    `the barcode on it is ${height} mm high${isWhole ? ': all of it' : ', half of it'}`,
  );
}

/** What the maker sent as a file: given, compared and installed, the print system restarted, and a pass printed. */
export async function newDriverByFile(kit: TourKit): Promise<void> {
  const { porch, step, expect, until, homes, bettina } = kit;
  const { computer, home } = bettina.desktop;
  if (!computer) return;
  step('A newer driver by file: given, compared, installed by her password; a service restarted, and a pass printed');
  const file = quayprintPackage(join(homes, 'quayprint'), '4.2');
  const there = join(home, 'Downloads', basename(file));
  rmSync(there, { force: true });
  await porch(['ask', 'give']);
  await porch(['give', file]);
  await until(
    'it lies in her downloads, whole',
    () => existsSync(there) && readFileSync(there).equals(readFileSync(file)),
  );
  await porch(['ask', 'runbook']);
  await porch(['ask', 'safe']);
  await porch(['ask', 'rights']);
  await porch(['raise-rights', 'install the driver that the maker sent']);
  const hash = createHash('sha256').update(readFileSync(file)).digest('hex');
  const install = (given: string) => [
    ...['run-action', 'install-given-driver', '--give', `FILE=/home/bettina/Downloads/${basename(file)}`],
    ...['--give', `HASH=${given}`],
  ];
  await porch(install('0'.repeat(64)), 1);
  await porch(install(hash));
  const version = await computer.read('dpkg-query', '-W', '-f', '${Version}', 'quayprint-driver');
  expect(version === '4.2', 'her own package list says 4.2');
  await porch(['ask', 'programs']);
  await porch(['ask', 'change']);
  await porch(['change-service', 'restart', 'cups', '--yes']);
  await porch(['lower-rights']);
  await porch(['ask', 'prints']);
  await oneTestPage(kit, true);
}
