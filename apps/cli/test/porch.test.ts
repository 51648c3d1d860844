import { dumpScreen, failure, House, samePixels, until } from '@porch/testkit';
import { execFileSync, spawnSync } from 'node:child_process';
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PNG } from 'pngjs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  await porch('sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin');
});
afterAll(() => house.close());
const porch = (...args: string[]) => house.porch('pim', args, 'harbour-lamp-41');
const json = async (...args: string[]) => JSON.parse((await porch(...args, '--json')).out) as never;

describe('porch', () => {
  it('keeps its token where only its user can read it', () => {
    expect(statSync(join(house.folder, 'pim', 'sign-in.json')).mode & 0o777).toBe(0o600);
  });
  it('lists where its user is signed in, and ends one of them', async () => {
    const elsewhere = await house.signedIn('Pim Aldersey');
    const rows = (await porch('sign-ins')).out;
    expect(rows).toMatch(/127\.0\.0\.1 +\(this one\) porch on linux/);
    const other = (await elsewhere.signIns()).find((s) => s.isThisOne);
    expect((await porch('sign-ins', '--end', other?.id.slice(0, 8) ?? '')).out).toMatch(/Ended: 1/);
    expect(await failure(elsewhere.me())).toBe('SIGN_IN_NEEDED');
    expect((await porch('sign-ins', '--end', 'ffffffff')).code).toBe(5);
  });
  it('has documented exit codes and errors that say what to do', async () => {
    const cases: [string[], number, RegExp][] = [
      [['--help'], 0, /A first session/],
      [['frobnicate'], 2, /unknown command/],
      [['ask'], 2, /missing required argument/],
      [['click', 'here', '5'], 2, /must be a number of pixels/],
      [['status', '-s', 'ffffffff'], 5, /porch open ffffffff/],
      [['start', 'MF-999'], 1, /no such ticket/],
      [['start', '--entry', 'ffffffff'], 5, /Nobody is waiting with entry/],
      [['take-over'], 5, /Nobody asks you/],
      [['verify', '--head', '5:xyz'], 2, /A head looks like/],
      [['outcome', 'splendid'], 2, /Allowed choices/],
      [['sign-in', '--service', 'http://192.0.2.7', '--email', 'a@marrowick.example', '--password-stdin'], 2, /https:/],
    ];
    for (const [args, code, words] of cases) {
      const answer = await porch(...args);
      expect([args, answer.code, answer.out + answer.err]).toEqual([args, code, expect.stringMatching(words)]);
    }
    const stranger = await house.porch('nobody', ['waiting']);
    expect([stranger.code, stranger.err]).toEqual([3, expect.stringContaining('porch sign-in')]);
    const wrong = await house.porch(
      'nobody',
      ['sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin'],
      'wrong',
    );
    expect([wrong.code, wrong.err]).toEqual([3, expect.stringContaining('wrong')]);
    const nowhere = await house.porch(
      'nobody',
      ['sign-in', '--service', 'http://127.0.0.1:9', '--email', 'a@marrowick.example', '--password-stdin'],
      'x',
    );
    expect([nowhere.code, nowhere.err]).toEqual([4, expect.stringContaining('cannot be reached')]);
  });
  it('does not mind a reader that stops in the middle', () => {
    const script = join(process.cwd(), 'dist', 'porch.mjs');
    const shell = spawnSync('sh', ['-c', `"${process.execPath}" "${script}" tickets --json | head -c 1`], {
      encoding: 'utf8',
      env: { ...process.env, PORCH_HOME: join(house.folder, 'pim') },
    });
    expect([shell.stdout, shell.stderr]).toEqual(['{', '']);
  });
  it('prints tables of at most a hundred columns, without colours', async () => {
    const { out } = await porch('tickets');
    expect(out).toContain('MF-201');
    for (const line of out.split('\n')) expect(line.length).toBeLessThanOrEqual(100);
    expect(out.includes(String.fromCharCode(27))).toBe(false);
  });
  it('leaves a session without ending it, and says so', async () => {
    const { session } = (await json('start')) as { session: { id: string } };
    expect(await porch('leave')).toMatchObject({ code: 0, out: expect.stringMatching(/left/i) as string });
    const rest = await house.signedIn();
    expect((await rest.session(session.id)).phase).toBe('prepared');
    const { rows } = await rest.ledger(session.id);
    expect(rows.filter(({ header }) => Buffer.from(header, 'base64').includes('participantLeft'))).toHaveLength(1);
  });
  it('does a whole session without a browser', async () => {
    // What is said aloud is an address that somebody can type, and no word of ours.
    expect((await porch('start')).out).toContain(`Please open ${new URL(house.url).host} in your browser`);
    const started = (await json('start', 'MF-201')) as {
      link: string;
      session: { id: string };
      code: { digits: string };
    };
    const link = started.link.split('/').at(-1) ?? '';
    const customer = await house.customer({ link });
    await customer.live.command({ type: 'introduceCustomer', name: 'Bettina Crole', address: '' });
    await customer.live.command({ type: 'acceptSession', noticeVersion: '1' });
    const own = (await customer.rest.door()).doorstepLink.split('/').at(-1) ?? '';
    const { desktop, person } = await house.withDoorstep(own, { programs: 'editor' });
    await until('Doorstep', async () => ((await json('status')) as { isDoorstepThere: boolean }).isDoorstepThere);
    const answering = (isYes: boolean, ...args: string[]) =>
      Promise.all([porch(...args), person.answer(isYes, 1_100)]).then(([answer]) => answer);
    expect((await answering(false, 'ask', 'see')).out).toContain('said no');
    expect((await answering(true, 'ask', 'see')).out).toContain('allowed');
    const file = join(house.folder, 'screen.png');
    expect((await porch('picture', '-o', file)).out).toContain('1280×800');
    // The caret blinks, so the screen may have changed between the two.
    await until('the saved picture to equal the screen', async () => {
      await porch('picture', '-o', file);
      const { width, height, data } = PNG.sync.read(readFileSync(file));
      const words = Uint32Array.from({ length: width * height }, (_, i) => data.readUIntBE(i * 4, 3));
      return samePixels(words, dumpScreen(desktop.display));
    });
    expect((await porch('type', 'x')).code).toBe(1);
    expect((await answering(true, 'ask', 'work')).code).toBe(0);
    await porch('click', '300', '400');
    await porch('press', 'Ctrl+End');
    await porch('type', 'fra kommandolinjen: ±24 mm');
    await porch('press', 'Ctrl+S');
    await until('the words in the file', () =>
      readFileSync(desktop.settingsFile, 'utf8').includes('fra kommandolinjen: ±24 mm'),
    );
    // Drawn on their own screen, where it is told to be.
    expect((await porch('draw', 'box', '40,60', '340,140')).code, 'it is a permission of its own').toBe(1);
    expect((await answering(true, 'ask', 'draw')).code).toBe(0);
    expect((await porch('draw', 'arrow', '40,60')).err).toContain('arrow needs 2 places at least');
    expect((await porch('draw', 'pen', '40;60', '1,1')).err).toContain('A place looks like');
    expect((await porch('draw', 'pen', '40,60', '1,1', '--display', '9')).code).toBe(1);
    expect(await json('draw', 'box', '40,160', '340,240')).toEqual({ kind: 'box', places: 2, display: 0 });
    const ink = () => dumpScreen(desktop.display, { x: 40, y: 200, width: 1, height: 1 })[0];
    await until('the box', () => [0xc2410c, 0x1d4ed8, 0x7e22ce, 0x0f766e].includes(ink() ?? 0));
    expect((await porch('unmark')).out).toBe('Taken away.\n');
    await until('it to be gone', () => ![0xc2410c, 0x1d4ed8, 0x7e22ce, 0x0f766e].includes(ink() ?? 0));
    // What is copied on one side is pasted on the other.
    expect((await porch('copy-to', 'words')).code, 'it is a permission of its own').toBe(1);
    expect((await answering(true, 'ask', 'paste')).code).toBe(0);
    expect((await answering(true, 'ask', 'copy')).code).toBe(0);
    expect((await porch('copy-from')).err).toContain('nothing that could be read has been copied there');
    expect((await porch('copy-to', 'barcode', '±24')).out).toBe('On their clipboard (12 B).\n');
    const clip = (...args: string[]) =>
      execFileSync('xclip', ['-selection', 'clipboard', ...args], {
        env: { ...process.env, DISPLAY: desktop.display },
        ...(args.includes('-i') ? { input: 'copied at Tern Quay', stdio: ['pipe', 'ignore', 'ignore'] } : {}),
      });
    expect(clip('-o').toString()).toBe('barcode ±24');
    const waiting = json('copy-from', '--wait', '20');
    clip('-i');
    expect(await waiting).toEqual({ kind: 'text', sizeBytes: 19, text: 'copied at Tern Quay' });
    expect((await porch('copy-from', '--kind', 'image')).code).toBe(1);
    // A screenshot is blanked and marked before it goes anywhere.
    expect((await porch('screenshot', '-o', file)).code, 'it is a permission of its own').toBe(1);
    expect((await answering(true, 'ask', 'screenshot')).code).toBe(0);
    expect((await porch('screenshot')).err).toContain('Say where it goes');
    expect((await porch('screenshot', '-o', file, '--blank', '1,2,3')).err).toContain('is no box');
    const shot = join(house.folder, 'shot.png');
    const boxes = ['--blank', '0,0,60,40', '--mark', '200,300,50,50'];
    const kept = (await json('screenshot', '-o', shot, '--keep', '--give', ...boxes)) as Record<string, unknown>;
    expect(kept).toMatchObject({ width: 1280, height: 800, file: shot });
    const png = PNG.sync.read(readFileSync(shot));
    const at = (x: number, y: number) => png.data.readUIntBE((y * png.width + x) * 4, 3);
    expect([at(0, 0), at(59, 39), at(200, 300), at(249, 349)]).toEqual([0, 0, 0xc2410c, 0xc2410c]);
    expect(statSync(shot).mode & 0o777).toBe(0o600);
    const theirs = readdirSync(join(desktop.home, 'Downloads')).filter((name) => name.endsWith('.png'));
    expect(theirs.map((name) => readFileSync(join(desktop.home, 'Downloads', name)))).toEqual([readFileSync(shot)]);
    expect((await porch('screenshot', '--keep', '--display', '7')).err).toContain('not shown just now');
    expect((await porch('say', 'Please', 'look')).code).toBe(0);
    writeFileSync(join(desktop.home, 'export.csv'), 'a;b\n');
    expect((await answering(true, 'ask', 'fetch')).code).toBe(0);
    expect((await answering(true, 'fetch', 'export.csv', '-o', join(house.folder, 'fetched'))).out).toContain(
      'complete, in',
    );
    expect(readFileSync(join(house.folder, 'fetched', 'export.csv'), 'utf8')).toBe('a;b\n');
    expect((await porch('fetch', '../../etc/passwd', '-o', house.folder)).code).toBe(1);
    // What is a list has one shape, however many there are.
    expect((await answering(true, 'ask', 'give')).code).toBe(0);
    const given = ['a.txt', 'b.txt'].map((name) => join(house.folder, name));
    for (const file of given) writeFileSync(file, 'something for you');
    const giving = porch('give', ...given, '--json');
    // One press may answer the next question, too, when that one comes at once.
    const isGiven = new AbortController();
    const { out: transfers } = await Promise.race([
      giving.finally(() => isGiven.abort()),
      (async () => {
        while (!isGiven.signal.aborted) await person.answer(true, 1_100, isGiven.signal);
        return giving;
      })(),
    ]);
    const { items } = JSON.parse(transfers) as { items: { stage: string }[] };
    expect(items.map(({ stage }) => stage)).toEqual(['arrived', 'arrived']);
    expect(JSON.parse((await porch('take', '-o', house.folder, '--json')).out)).toEqual({ items: [] });
    expect((await porch('outcome', 'resolved')).err).toContain('end it first');
    expect((await porch('end')).code).toBe(0);
    expect((await porch('outcome', 'resolved', '--minutes', '3')).out).toContain('Resolved, 3 min');
    const { out } = await porch('ledger');
    expect(out).toContain('logged the outcome: resolved, 3 min');
    expect((await porch('verify')).out).toMatch(/whole: \d+ entries[\s\S]*trusted head/);
  });
});
