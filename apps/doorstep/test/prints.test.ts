import { TechnicianPrints } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, House, pdfSaying, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Printing at stand-in computers by their own print system: looked at there, from outside, and here, in the PDF itself. */
let house: House;
beforeAll(async () => (house = await House.open()));
afterAll(() => house.close());

const NAME = 'Pim_Aldersey_support_session';
type Computer = Awaited<ReturnType<typeof computerOf>>;

/** Printing as one of its accounts, and the list as anybody there sees it. */
function printersOf({ computer, home }: Computer, login: string) {
  const as = (who: string) => ['--reuid', who, '--regid', who === 'nobody' ? 'nogroup' : who, '--clear-groups', '--'];
  const print = (title: string, text: string, who = login) => {
    mkdirSync(join(home, 'Documents'), { recursive: true });
    const file = join(home, 'Documents', 'to-print.pdf');
    writeFileSync(file, pdfSaying(text));
    return computer.read('setpriv', ...as(who), 'lp', '-d', NAME, '-t', title, file);
  };
  const list = () => computer.read('sh', '-c', 'lpstat -v 2>/dev/null || true');
  const waiting = () => computer.read('sh', '-c', 'lpstat -o 2>/dev/null || true');
  return { print, list, waiting };
}
async function working(desktop: Computer, login: 'bettina' | 'samir') {
  const s = await house.sessionUnderWay();
  const { person, doorstep } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  const prints = new TechnicianPrints(s.technician, () => undefined);
  await askAndAgree(s.technician, person, ['take-prints']);
  await until('a printer', () => prints.printer?.is === 'ready');
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const text = (title: string) => {
    const bytes = prints.documents.find((one) => one.title === title)?.bytes;
    return bytes && execFileSync('pdftotext', ['-', '-'], { input: bytes, encoding: 'utf8' });
  };
  return { ...s, person, doorstep, prints, told, text, ...printersOf(desktop, login) };
}

describe.skipIf(whyNoComputers())('a printer of the session', () => {
  it('stands in the list with the yes, brings out what is printed as a PDF, and goes with the yes', async () => {
    const desktop = await computerOf(house);
    expect(await printersOf(desktop, 'bettina').list()).toBe('');
    const { technician, prints, print, list, waiting, told, text } = await working(desktop, 'bettina');
    expect(prints.printer).toMatchObject({ name: 'Pim Aldersey (support session)' });
    expect(await list()).toMatch(new RegExp(`^device for ${NAME}: ipp://127\\.0\\.0\\.1:`));
    await print('Boarding pass', 'Puffin, Tern Quay 08:40, PF-2231');
    await until('the document', () => text('Boarding pass')?.includes('PF-2231'));
    const [one] = prints.documents;
    const hash = createHash('sha256')
      .update(one?.bytes ?? '')
      .digest('hex');
    await until('both sides hear of it', () => told().includes("“Boarding pass” arrived at Pim Aldersey's"));
    expect(told().join('\n')).toContain(`A printer was added to your computer, “Pim Aldersey (support session)”`);
    const printed = technician.entries.flatMap(({ event }) => (event.type === 'prints/printed' ? [event] : []));
    expect(printed).toMatchObject([{ sha256: hash, sizeBytes: one?.sizeBytes, personal: { title: 'Boarding pass' } }]);

    // A title is text, whatever is in it: no command, no cursor.
    await print('Pass"; touch /tmp/x $(id)', 'by its name');
    await until('the second', () => prints.documents.length === 2 && prints.documents[0]?.bytes);
    expect(prints.documents[0]?.title).toBe('Pass"; touch /tmp/x $(id)');
    await expect(desktop.computer.read('ls', '/tmp/x')).rejects.toThrow();

    // Somebody else of this computer: neither through the list nor by the address that everybody there can read.
    await print('Not mine', 'somebody else', 'nobody');
    await until('it was refused', () =>
      told().some((sentence) => sentence.startsWith('Somebody else on this computer')),
    );
    await until('nothing waits', async () => (await waiting()) === '');
    const port = /127\.0\.0\.1:(\d+)/.exec(await list())?.[1] ?? '';
    // Whoever is not let in may find the door shut before a word is written: that is an answer, too, and no end of the knocking.
    const knocking = `trap '' PIPE; exec 3<>/dev/tcp/127.0.0.1/${port}; printf 'POST / HTTP/1.0\\r\\n\\r\\n' >&3; cat <&3`;
    const knock = (who: string) =>
      desktop.computer.read('setpriv', '--reuid', who, '--clear-groups', '--', 'bash', '-c', `${knocking} || true`);
    expect([await knock('bettina'), await knock('nobody')]).toEqual([expect.stringContaining('404'), '']);
    expect(prints.documents).toHaveLength(2);

    // The print system is restarted: the printer is there again by itself.
    await desktop.computer.read('systemctl', 'restart', 'cups');
    await until('it is listed again', async () => (await list()).includes(NAME));
    await print('Afterwards', 'PF-2232');
    await until('the third', () => text('Afterwards')?.includes('PF-2232'));

    await technician.command({
      ...{ type: 'withdrawPermission', permission: 'take-prints', why: 'given back' },
      participantId: technician.participantId,
    });
    await until('it has gone', async () => (await list()) === '');
    await expect(print('Too late', 'x')).rejects.toThrow();
    await until('the ledger', () => told().some((sentence) => sentence.endsWith('was taken away')));
    prints.close();
  });

  it('stays though the print system lets go of it each minute, and goes when its program is killed, from an account without rights', async () => {
    const desktop = await computerOf(house, 'samir');
    const { print, list, waiting, prints } = await working(desktop, 'samir');
    await print('A list of buoys', 'gull');
    await until('the document', () => prints.documents[0]?.bytes);
    const made = () =>
      desktop.computer.read('stat', '-c', '%i %Y', `/etc/cups/ppd/${NAME}.ppd`).catch(() => 'not there');
    const first = await made();
    await until('it was put there again', async () => !['not there', first].includes(await made()), 90_000);
    await print('Another list of buoys', 'tern');
    await until('the second document', () => prints.documents.length === 2 && prints.documents[0]?.bytes);
    // The program itself, and not what looks after it.
    await desktop.computer.read('pkill', '-KILL', '-x', 'doorstep');
    // Somebody prints before it has gone: nothing of that waits for ever.
    await print('Into nothing', 'x');
    await until('it was cancelled', async () => (await waiting()) === '');
    await until('it has gone', async () => (await list()) === '', 150_000);
    expect(await desktop.computer.read('sh', '-c', 'ls /etc/cups/ppd')).toBe('');
    prints.close();
  });
});
