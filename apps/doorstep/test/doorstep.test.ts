import { FileTransfers, type FileSink } from '@porch/client';
import { startDesktop, findWindow } from '@porch/demo';
import { XConnection, loadExtensions } from '@porch/doorstep';
import type { InputAct } from '@porch/wire';
import {
  askAndAgree,
  dumpScreen,
  House,
  makeMouseAndKeyboard,
  questionToBeReady,
  samePixels,
  startWorking,
  until,
} from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

async function working(programs: 'none' | 'editor' = 'none') {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, { programs });
  const seen = await startWorking(s.technician, d.person);
  return { ...s, ...d, ...seen };
}
const typed = (file: string, text: string) =>
  until(`“${text}” in the file`, () => readFileSync(file, 'utf8').includes(text));
const save: InputAct[] = [
  { act: 'key', key: 'Control', isDown: true },
  { act: 'key', key: 's', isDown: true },
  { act: 'key', key: 's', isDown: false },
  { act: 'key', key: 'Control', isDown: false },
];
/** A click into the editor, wherever the window manager has put it. */
const intoEditor: InputAct[] = [
  { act: 'button', x: 300, y: 400, button: 'left', isDown: true },
  { act: 'button', x: 300, y: 400, button: 'left', isDown: false },
  { act: 'key', key: 'Control', isDown: true },
  { act: 'key', key: 'End', isDown: true },
  { act: 'key', key: 'End', isDown: false },
  { act: 'key', key: 'Control', isDown: false },
];

/** With mouse and keys, as any program can: to Yes and pressed, and by Tab and Enter. */
async function pressYesByProgram(
  x: XConnection,
  xtest: Awaited<ReturnType<typeof loadExtensions>>['xtest'],
  yes: { readonly x: number; readonly y: number },
): Promise<void> {
  for (const [type, detail] of [
    [6, 0],
    [4, 1],
    [5, 1],
    [2, 23],
    [3, 23],
    [2, 36],
    [3, 36],
  ] as const)
    xtest.FakeInput(type, detail, 0, type === 6 ? x.root : 0, yes.x, yes.y);
  await x.flush();
}

describe('the question on the screen', () => {
  it('cannot be pressed by anything Doorstep could inject, nor in its first second; the person’s own press counts', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const { desktop, person } = await house.withDoorstep(link);
    await until('Doorstep', () => technician.state.holderId);
    await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
    const question = await until('the question', () => person.question());
    const standing = () => technician.state.standings[technician.participantId]?.['view-screen']?.name;
    await person.click(question.yes.x, question.yes.y);
    expect(standing(), 'a press in the first second').toBe('waiting');
    const x = await XConnection.open(desktop.display, () => undefined);
    const { xtest } = await loadExtensions(x);
    await new Promise((resolve) => setTimeout(resolve, 1_100)); // The arming itself is what is tested here.
    await pressYesByProgram(x, xtest, question.yes);
    x.close();
    expect(await person.question(), 'it is still open').toBeDefined();
    expect(standing()).toBe('waiting');
    await person.click(question.yes.x, question.yes.y);
    await until('the person’s yes', () => standing() === 'allowed');
  });

  it('cannot be pressed by devices that a program makes while it stands there', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const { desktop, person } = await house.withDoorstep(link);
    await until('Doorstep', () => technician.state.holderId);
    await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
    const question = await until('the question', () => person.question());
    await questionToBeReady(person);
    const x = await XConnection.open(desktop.display, () => undefined);
    const { xtest, xinput } = await loadExtensions(x);
    await makeMouseAndKeyboard(x, xinput, 'evil');
    await pressYesByProgram(x, xtest, question.yes);
    expect(await person.question(), 'it is still open').toBeDefined();
    expect(technician.state.standings[technician.participantId]?.['view-screen']?.name).toBe('waiting');
    x.close();
    await person.click(question.yes.x, question.yes.y);
    await until(
      'the person’s yes',
      () => technician.state.standings[technician.participantId]?.['view-screen']?.name === 'allowed',
    );
  });

  it('is answered with the person’s own keyboard, too, and has nothing chosen beforehand', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const { person } = await house.withDoorstep(link);
    await until('Doorstep', () => technician.state.holderId);
    const standing = () => technician.state.standings[technician.participantId]?.['view-screen']?.name;
    await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
    await until('the question', () => person.question());
    await new Promise((resolve) => setTimeout(resolve, 1_100)); // Armed.
    const [tab, enter] = [23, 36];
    await person.tapKey(enter);
    await person.tapKey(tab); // The first press of Tab chooses No.
    await person.tapKey(enter);
    await until('the no', () => standing() === 'saidNo');
  });

  it('says yes and no at the same size', async () => {
    const { person } = await (async () => {
      const s = await house.sessionUnderWay();
      const d = await house.withDoorstep(s.link);
      await until('Doorstep', () => s.technician.state.holderId);
      await s.technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
      return d;
    })();
    const question = await until('the question', () => person.question());
    expect(question.yes.y).toBe(question.no.y);
  });
});

describe('working the desktop', () => {
  it('shows it pixel for pixel, also after something was drawn', async () => {
    const { desktop, pixels, picture, act } = await working('editor');
    act(...intoEditor, { act: 'text', text: 'half a barcode' });
    const sameAsScreen = () => samePixels(pixels(), dumpScreen(desktop.display));
    expect(picture.viewer.picture.grid).toMatchObject({ width: 1280, height: 800 });
    // A caret blinks now and then: at some moment both are the same.
    await until('the stage to equal the screen', sameAsScreen);
  });

  it('types any script into the program that has the focus', async () => {
    const { desktop, act } = await working('editor');
    const text = 'Größe åpen – проверено 船 ✓ {[~@€]}';
    act(...intoEditor, { act: 'text', text }, ...save);
    await typed(desktop.settingsFile, text);
  });

  it('lets the person win: their own input pauses the technician’s and nothing stays pressed', async () => {
    const { act, person, lease } = await working();
    act({ act: 'key', key: 'Shift', isDown: true }, { act: 'button', x: 5, y: 500, button: 'left', isDown: true });
    await until('Shift to be down', async () => (await person.keysDown()).length > 0);
    await person.tapKey(38);
    await until('the pause', () => lease.state.name === 'paused');
    await until('everything to be up', async () => (await person.keysDown()).length === 0);
    await until('it to go on by itself', () => lease.state.name === 'open');
  });

  it.each([
    'the page takes control back',
    'the technician’s line is cut',
    'Doorstep is killed',
    'the service is killed',
  ])('lets go of every key when %s', async (what) => {
    const { act, person, technician, customer, doorstep } = await working();
    act({ act: 'key', key: 'Shift', isDown: true }, { act: 'key', key: 'q', isDown: true });
    await until('keys to be down', async () => (await person.keysDown()).length >= 2);
    if (what.includes('page'))
      await customer.command({
        type: 'withdrawPermission',
        participantId: technician.participantId,
        permission: 'control-input',
        why: 'enough',
      });
    else if (what.includes('line')) technician.close();
    else if (what.includes('Doorstep')) doorstep.kill('SIGKILL');
    else await house.killService();
    await until('every key to be up', async () => (await person.keysDown()).length === 0);
    if (what.includes('service')) await house.startService();
  });
});

describe('Stop', () => {
  it('lets not one more key through, also when the service is down, and is told later', async () => {
    const { desktop, person, act, technician } = await working('editor');
    act(...intoEditor, { act: 'text', text: 'before stop' }, ...save);
    await typed(desktop.settingsFile, 'before stop');
    await house.killService();
    await person.pressStop();
    const x = await XConnection.open(desktop.display, () => undefined);
    await until('the bar to go', async () => (await findWindow(x, /^Zesty Porch$/)) === undefined);
    x.close();
    await house.startService();
    await until('the ledger to hear of it', () => technician.state.phase.name === 'ended');
    expect(technician.state.phase).toMatchObject({ reason: 'stop' });
    act({ act: 'text', text: 'after stop' }, ...save);
    expect(readFileSync(desktop.settingsFile, 'utf8')).not.toContain('after stop');
    expect(await person.keysDown()).toEqual([]);
  });
});

describe('files', () => {
  const bufferSink = () => {
    const parts: Uint8Array[] = [];
    let isDone = false;
    const sink: FileSink = {
      write: async (b) => void parts.push(b.slice()),
      finish: async () => void (isDone = true),
      discard: async () => void (parts.length = 0),
    };
    return { sink, bytes: () => Buffer.concat(parts), isDone: () => isDone };
  };

  it('go to the person’s downloads only with their yes, go on after the service was killed, and are checked', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const { desktop, person } = await house.withDoorstep(link);
    await until('Doorstep', () => technician.state.holderId);
    const files = new FileTransfers(technician);
    const content = Buffer.from(Array.from({ length: 3_000_000 }, (_, i) => (i * 31) & 255));
    const source = {
      name: '../../sneaky name.bin',
      sizeBytes: content.length,
      read: async (offset: number, length: number) => new Uint8Array(content.subarray(offset, offset + length)),
    };
    await expect(files.offer(source, technician.state.holderId ?? '')).rejects.toMatchObject({ code: 'NOT_GRANTED' });
    await askAndAgree(technician, person, ['give-files']);
    const fileId = await files.offer(source, technician.state.holderId ?? '');
    let isKilled = false;
    let again: Promise<void> | undefined;
    files.listeners.on('progress', ({ movedBytes }) => {
      if (movedBytes < 200_000 || isKilled) return;
      isKilled = true;
      again = house.killService().then(() => house.startService());
    });
    await person.answer(true, 1_100);
    await until('the file to arrive', () => technician.state.slices.files[fileId]?.stage === 'arrived');
    await again;
    expect(isKilled).toBe(true);
    expect(readFileSync(join(desktop.home, 'Downloads', 'sneaky name.bin')).equals(content)).toBe(true);
    await files.close();
  });

  it('are fetched only with leave, and only from the home folder', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const { desktop, person } = await house.withDoorstep(link);
    await until('Doorstep', () => technician.state.holderId);
    writeFileSync(join(desktop.home, 'export.csv'), 'a;b;c\n');
    symlinkSync('/etc/hostname', join(desktop.home, 'way-out'));
    const files = new FileTransfers(technician);
    const holder = () => technician.state.participants[technician.state.holderId ?? ''];
    const fetch = (path: string) =>
      new Promise<string>((resolve) => {
        const requestId = crypto.randomUUID();
        const off = files.listeners.on('message', ({ message }) => {
          if (!('requestId' in message) || message.requestId !== requestId) return;
          off();
          resolve(
            message.type === 'fetchStarted'
              ? message.fileId
              : message.type === 'fetchRefused'
                ? `no: ${message.why}`
                : '',
          );
        });
        files.tell(holder()?.seat ?? 0, { type: 'fetch', requestId, path });
      });
    await askAndAgree(technician, person, ['give-files']);
    expect(await fetch('export.csv'), 'giving is not fetching').toBe('no: the customer has not allowed it');
    await askAndAgree(technician, person, ['fetch-files']);
    for (const path of ['/etc/hostname', '../../../../etc/hostname', 'way-out', 'nothing here'])
      expect(await fetch(path)).toMatch(/^no: /);
    // Never sent, whatever was allowed: Doorstep's own, and what opens other things.
    mkdirSync(join(desktop.home, '.ssh'), { recursive: true });
    writeFileSync(join(desktop.home, '.ssh', 'id_ed25519'), 'a key\n');
    symlinkSync(join(desktop.home, '.ssh', 'id_ed25519'), join(desktop.home, 'harmless.txt'));
    for (const path of ['.ssh/id_ed25519', 'harmless.txt']) expect(await fetch(path)).toContain('keys that open');
    const [own] = readdirSync(join(desktop.home, 'state'));
    expect(await fetch(`state/${own ?? ''}`)).toContain('belongs to Doorstep');
    // One question for each; a no stays with this file.
    const refused = fetch('export.csv');
    await person.answer(false, 1_100);
    expect(await refused).toBe('no: the customer said no to this file');
    const asked = fetch('export.csv');
    await person.answer(true, 1_100);
    const fileId = await asked;
    const { sink, bytes, isDone } = bufferSink();
    await until('the offer', () => technician.state.slices.files[fileId]);
    await files.accept(fileId, sink);
    await until('the file', () => technician.state.slices.files[fileId]?.stage === 'arrived');
    expect([bytes().toString(), isDone()]).toEqual(['a;b;c\n', true]);
    await files.close();
  });
});

it('says that the screen is gone when the X server dies under it, and holds no permission any longer', async () => {
  const { technician, desktop } = await working();
  desktop.server.kill('SIGKILL');
  await until('the ledger to say so', () => technician.entries.some((e) => e.event.type === 'screenLost'));
  expect(technician.state.standings[technician.participantId]?.['view-screen']?.name).toBe('over');
});

it('has what it needs and no more', async () => {
  const desktop = await startDesktop(house.processes, {
    name: 'words',
    home: join(house.folder, 'words'),
    programs: 'none',
  });
  const script = join(process.cwd(), 'dist', 'doorstep.mjs');
  const run = (...args: string[]) => {
    try {
      return execFileSync(process.execPath, [script, 'join', '--display', desktop.display, ...args], {
        stdio: 'pipe',
        encoding: 'utf8',
      });
    } catch (error) {
      const { status, stderr } = error as { status: number; stderr: string };
      return `${status} ${stderr}`;
    }
  };
  expect(run('--service', house.url, '--code', '41279036')).toMatch(/^2 .*one of the digits is wrong/);
  expect(run('--link', 'http://127.0.0.1/nothing')).toMatch(/^2 .*not a join link/);
  expect(run('--link', `${house.url}/join/unknown`)).toMatch(/^1 .*does not lead to an open session/);
  expect(run('--display', ':987', '--link', `${house.url}/join/unknown`)).toMatch(
    /^1 .*watchdog could not start|cannot be reached/,
  );
});
