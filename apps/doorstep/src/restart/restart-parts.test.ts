import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { callersUid } from '../system/callers-uid.ts';
import { seal, unseal } from '../sealed-file.ts';
import { SessionKeys } from '../session-keys.ts';
import { beginBareStart, endBareStart, planBareStart } from './bare-start.ts';
import { battery, diskKey, unsavedOf } from './hits.ts';
import { readNotes, removeNote, writeNote, type ReturnNote } from './return-note.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'restart-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));
const HALF = 'kept-half';
const SESSION = '00000000-0000-4000-8000-000000000001';

const quiet = () => undefined;
describe('what a restart meets', () => {
  it('is unsaved work as editors say it in their titles', () => {
    const titles = [
      '*manifest.txt - Mousepad',
      '• labels',
      'rota.ods (modified)',
      'fares*',
      'manifest.txt',
      'A * B',
      '',
    ];
    expect(unsavedOf(titles)).toEqual(titles.slice(0, 4));
  });
  it('is a disk that somebody has to unlock, and none that opens by itself', () => {
    expect(diskKey('# name device key\nhome /dev/sda2 none luks')).toEqual([{ hit: 'disk-key' }]);
    expect(diskKey('home UUID=1 - luks,fido2-device=auto')).toEqual([{ hit: 'disk-key' }]);
    expect(diskKey('home UUID=1 none tpm2-device=auto,tpm2-pin=yes')).toEqual([{ hit: 'disk-key' }]);
    expect(diskKey('home UUID=1 none tpm2-device=auto\nswap /dev/sda3 /dev/urandom swap\n\n')).toEqual([]);
  });
  it('is a battery that is almost empty while nothing loads it, and no mouse', () => {
    const supply = (name: string, values: Readonly<Record<string, string>>) => {
      mkdirSync(join(folder, name), { recursive: true });
      for (const [file, text] of Object.entries(values)) writeFileSync(join(folder, name, file), `${text}\n`);
    };
    supply('mouse', { type: 'Battery', capacity: '3', scope: 'Device' });
    expect(battery(folder)).toEqual([]);
    supply('BAT0', { type: 'Battery', capacity: '9' });
    expect(battery(folder)).toEqual([{ hit: 'battery' }]);
    supply('AC', { type: 'Mains', online: '1' });
    expect(battery(folder)).toEqual([]);
    expect(battery(join(folder, 'none'))).toEqual([]);
  });
});

describe('a start with nothing but what the desktop needs', () => {
  it('hides what others begin, keeps what is the account’s own aside, and puts all of it back', () => {
    const [own, theirs] = [join(folder, 'config', 'autostart'), join(folder, 'xdg', 'autostart')];
    mkdirSync(own, { recursive: true });
    mkdirSync(theirs, { recursive: true });
    writeFileSync(join(own, 'mine.desktop'), 'mine');
    writeFileSync(join(own, 'zesty-porch-return.desktop'), 'ours');
    writeFileSync(join(theirs, 'updates.desktop'), 'Exec=x');
    writeFileSync(join(theirs, 'panel.desktop'), 'X-GNOME-Autostart-Phase=Panel');
    const before = readdirSync(own);
    const plan = planBareStart(join(folder, 'config'), [join(folder, 'xdg')]);
    expect(plan).toEqual({ hidden: ['updates.desktop'], keptAside: ['mine.desktop'] });
    beginBareStart(join(folder, 'config'), plan);
    expect(readdirSync(own).sort()).toEqual([
      'mine.desktop.zesty-porch-aside',
      'updates.desktop',
      'zesty-porch-return.desktop',
    ]);
    // What somebody has put there meanwhile is theirs.
    writeFileSync(join(own, 'updates.desktop'), 'of somebody else');
    endBareStart(join(folder, 'config'), plan);
    endBareStart(join(folder, 'config'), plan);
    expect(readdirSync(own).sort()).toEqual([...before, 'updates.desktop'].sort());
  });
});

describe('what is kept for a return', () => {
  it('opens with the other half alone, for what it was sealed for, and only as it was', () => {
    const sealed = seal(HALF, 'keys 1', 'secret');
    expect(unseal(HALF, 'keys 1', sealed)).toBe('secret');
    expect([unseal('another', 'keys 1', sealed), unseal(HALF, 'keys 2', sealed)]).toEqual([undefined, undefined]);
    expect(
      unseal(HALF, 'keys 1', { ...sealed, bytes: sealed.bytes.replace(/^../, (a) => (a === '00' ? '01' : '00')) }),
    ).toBe(undefined);
  });
  it('is one set of pairs with what was agreed, and nobody’s once it is forgotten, or without the half', () => {
    const agreement = {
      signKey: 'a'.repeat(64),
      agreeKey: 'b'.repeat(64),
      permissions: [{ permission: 'view-screen' as const, endsAtMs: 5 }],
    };
    const first = new SessionKeys(folder, SESSION, HALF, quiet);
    const { keys, isKept } = first.take();
    expect([isKept, first.agreement]).toEqual([false, undefined]);
    first.agree(agreement);
    const again = new SessionKeys(folder, SESSION, HALF, quiet);
    expect(again.take()).toMatchObject({ isKept: true, keys: { signKey: keys.signKey } });
    expect(again.agreement).toEqual(agreement);
    const stranger = new SessionKeys(folder, SESSION, 'of-another-service', quiet);
    expect(stranger.take().isKept).toBe(false);
    expect(new SessionKeys(join(folder, 'x'), SESSION, undefined, quiet).take().isKept).toBe(false);
    stranger.forget();
    expect(readdirSync(folder)).toEqual([]);
  });
  it('is a session without keys that are kept where nothing can be written, and then nothing is agreed', () => {
    mkdirSync(join(folder, `keys-${SESSION}.json.new`));
    const said: string[] = [];
    const keys = new SessionKeys(folder, SESSION, HALF, (why) => said.push(why));
    expect(keys.take().isKept).toBe(false);
    expect(said.join()).toContain('EISDIR');
    expect(() => keys.agree({ signKey: 'a', agreeKey: 'b', permissions: [] })).toThrow('EISDIR');
    keys.agree(undefined);
    expect(readdirSync(folder)).toEqual([`keys-${SESSION}.json.new`]);
  });
  it('is a note that this account alone may read, the newest first; anything else is left alone', () => {
    const note: ReturnNote = {
      ...{
        version: 1,
        sessionId: SESSION,
        serviceUrl: 'http://help.marrowick.example',
        token: 't',
        untilMs: 9,
      },
      ...{ hasLinger: false, hidden: [], keptAside: [] },
    };
    writeNote(folder, note);
    writeFileSync(join(folder, `return-${SESSION.replace(/1$/, '2')}.json`), JSON.stringify(note), { mode: 0o644 });
    writeFileSync(join(folder, `return-${SESSION.replace(/1$/, '3')}.json`), '{"version":1', { mode: 0o600 });
    expect(readNotes(folder)).toEqual([note]);
    removeNote(folder, SESSION);
    expect(readNotes(folder)).toEqual([]);
    expect(readNotes(join(folder, 'none'))).toEqual([]);
  });
  it('signs in the account of whoever asked, as systemd, pkexec or sudo say it, and nobody else', () => {
    expect(callersUid({}, '7-4711-1001')).toBe(1001);
    expect(callersUid({ PKEXEC_UID: '1002', SUDO_UID: '0' }, undefined)).toBe(1002);
    expect(callersUid({ SUDO_UID: '1003' }, undefined)).toBe(1003);
    expect([callersUid({ SUDO_UID: '1003' }, ''), callersUid({}, '7-unknown'), callersUid({}, undefined)]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
  });
});
