import { CommandLineRefusedThere, TechnicianCommandLine, type CommandLineOver } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { whyNoComputers } from '@porch/demo';
import {
  askAndAgree,
  computerOf,
  dumpScreen,
  House,
  markedProcesses,
  questionToBeReady,
  Themselves,
  until,
} from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import headless from '@xterm/headless';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Command lines at real desktops, looked at from outside: their processes, their files, their windows. */
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());

const size = { folder: '', columns: 80, rows: 24 };
type Where = NonNullable<Parameters<House['withDoorstep']>[1]>;
/** A terminal as a technician has one, which takes what it is given in its own time. */
class AtTheirTerminal {
  readonly line: TechnicianCommandLine;
  readonly rested: string[] = [];
  bytes = 0;
  begunAnew = 0;
  over: CommandLineOver | undefined;
  /** Takes nothing for now. */
  isSlow = false;
  #terminal = new headless.Terminal({ cols: 80, rows: 24, scrollback: 2_000, allowProposedApi: true });

  constructor(line: TechnicianCommandLine) {
    this.line = line;
    line.listeners.on('printed', (bytes) => {
      this.bytes += bytes.length;
      if (!this.isSlow) this.#terminal.write(bytes, () => line.took(bytes.length));
    });
    line.listeners.on('anew', () => {
      this.begunAnew++;
      this.#terminal.reset();
    });
    line.listeners.on('rests', (why) => this.rested.push(why));
    line.listeners.on('over', (over) => (this.over = over));
    this.#terminal.onData((answer) => line.keys(answer));
  }
  async open(folder = '', lineId = this.line.newId()) {
    this.over = undefined;
    this.#terminal.reset();
    return this.line.open({ lineId, folder, columns: 80, rows: 24 });
  }
  get text(): string {
    const { active } = this.#terminal.buffer;
    return Array.from({ length: active.length }, (_, y) => active.getLine(y)?.translateToString(true) ?? '')
      .join('\n')
      .trimEnd();
  }
  type(text: string): void {
    this.line.keys(text);
  }
  shows(words: string | RegExp): Promise<unknown> {
    return until(`the terminal to show ${words}`, () =>
      typeof words === 'string' ? this.text.includes(words) : words.test(this.text),
    ).catch((error: unknown) => {
      throw new Error(`${String(error)}; it shows:\n${this.text}`);
    });
  }
  resize(columns: number, rows: number): void {
    this.#terminal.resize(columns, rows);
    this.line.size(columns, rows);
  }
  end(): Promise<CommandLineOver> {
    return until('the end', () => this.over);
  }
}

async function working(where: Where = {}) {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, where);
  await until('Doorstep', () => s.technician.state.holderId);
  const at = new AtTheirTerminal(new TechnicianCommandLine(s.technician));
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const takeBack = () =>
    s.customer.command({
      ...{ type: 'withdrawPermission', participantId: s.technician.participantId, why: 'enough' },
      permission: 'use-command-line',
    });
  return { ...s, ...d, at, told, takeBack };
}
const refusal = (attempt: Promise<unknown>): Promise<string> =>
  attempt.then(
    () => 'done',
    (error: unknown) => (error instanceof CommandLineRefusedThere ? error.message : String(error)),
  );
const marked = () => markedProcesses(house.folder);

describe('a command line', () => {
  it('is the person’s own, in a folder, and both sides read what stood there', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    mkdirSync(join(w.desktop.home, 'Manifests'));
    writeFileSync(join(w.desktop.home, 'Manifests/ferry ’n’ freight.csv'), 'x');
    const opened = await w.at.open('~/Manifests');
    expect(opened).toMatchObject({ folder: join(w.desktop.home, 'Manifests'), mayGoOn: true });
    w.at.type('ls; echo $((6*7)) äö€日本; tty\r');
    await w.at.shows('42 äö€日本');
    await w.at.shows(/\/dev\/pts\/\d/);
    w.at.type('exit 3\r');
    expect(await w.at.end()).toEqual({ how: 'left', code: 3, mayGoOn: false });
    await until('the ledger', () => w.told().includes('The command line ended with code 3'));
    expect(w.told().join('\n')).toContain('42 äö€日本');
    expect(marked()).toEqual([]);
  });

  it('is logged as it prints, never key by key, within a limit; nothing of it stays in the person’s home', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    writeFileSync(join(w.desktop.home, '.bash_history'), 'their own\n');
    await w.at.open();
    w.at.type('read -rs -p "PIN: " pin; echo; echo "${#pin} characters"\r');
    await w.at.shows(/\nPIN:$/);
    w.at.type('harbour lamp 88\r');
    await w.at.shows('15 characters');
    // Thought better of: what was rubbed out is not there either.
    w.at.type('echo wrong\x7f\x7f\x7f\x7f\x7fright\r');
    await w.at.shows('\nright');
    w.at.type(
      "printf '\\033]0;ti''tle\\007\\033]8;;http://a.example\\007link\\033]8;;\\007 \\033[31mred\\033[0m\\n'; clear; echo after\r",
    );
    await w.at.shows(/^after/m);
    w.at.type('seq 1 100000\r');
    await w.at.shows(/\n100000\n/);
    w.at.type('exit\r');
    expect(await w.at.end()).toMatchObject({ how: 'left', code: 0 });
    await until('the end in the ledger', () => w.told().at(-1) === 'The command line ended');
    const log = w.told().join('\n');
    expect(log).toContain('15 characters');
    expect(log).toMatch(/[#$] echo right\n/);
    expect(log).toContain('link red');
    expect(log).toContain('after');
    expect(log).toContain('\n99999\n100000\n');
    expect(log).not.toContain('harbour lamp');
    expect(log).not.toContain('title');
    const said = w.technician.entries.filter(({ event }) => event.type === 'command-line/printed');
    expect(said.length).toBeLessThan(20);
    expect(JSON.stringify(said)).not.toContain('\\u001b');
    expect(readFileSync(join(w.desktop.home, '.bash_history'), 'utf8')).toBe('their own\n');
  });

  it('ends whole: with its closing, its permission, the person’s window, and Doorstep', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    const hide = async () => {
      w.at.type('(trap "" HUP TERM; setsid sleep 600 & nohup sleep 601 >/dev/null 2>&1 & sleep 602 &); echo be""gun\r');
      await w.at.shows('begun');
      expect(marked().length).toBeGreaterThan(3);
    };
    await w.at.open();
    await hide();
    w.at.line.shut();
    expect(await w.at.end()).toEqual({ how: 'closed', code: undefined, mayGoOn: false });
    expect(marked()).toEqual([]);
    // By the person, in the window that shows it to them.
    await w.at.open();
    await hide();
    const title = /Command line: Pim Aldersey/;
    const window = () => until('their window', () => w.person.shown(title));
    const colours = async () => {
      const { x, y, width } = await window();
      return new Set(dumpScreen(w.desktop.display, { x, y: y + 44, width, height: 200 })).size;
    };
    await until('its text', async () => (await colours()) > 20);
    const { close } = await window();
    await w.person.click(close.x, close.y);
    await until('all of it to be gone', () => marked().length === 0);
    expect(await w.at.end()).toMatchObject({ how: 'closed-there' });
    await until('no window', async () => (await w.person.shown(title)) === undefined);
    // By taking it back on the page.
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    await w.at.open();
    await hide();
    await w.takeBack();
    await until('all of it to be gone', () => marked().length === 0);
    expect(await w.at.end()).toMatchObject({ how: 'broken-off' });
    await until('both sides to read so', () => w.told().at(-1)?.includes('not allowed any longer'));
    // Nobody is left who could end it.
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    await w.at.open();
    await hide();
    w.doorstep.kill('SIGKILL');
    await until('all of it to be gone', () => marked().length === 0);
  });

  it('prints as much as it likes: not more is read than their terminal takes, and a key is never late', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    await w.at.open();
    w.at.type('yes "the ferry leaves at noon"\r');
    await until('much of it', () => w.at.bytes > 4_000_000);
    // Words to the other side go on meanwhile.
    await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'Still here.' });
    w.at.type('\x03');
    w.at.type('echo st""opped\r');
    await w.at.shows('stopped');
    // A terminal that takes nothing.
    w.at.isSlow = true;
    const before = w.at.bytes;
    w.at.type('yes "the ferry leaves at noon"\r');
    await until('what it may have', () => w.at.bytes - before > 400_000);
    for (let last = -1; last !== w.at.bytes;) {
      last = w.at.bytes;
      await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'And now?' });
    }
    expect(w.at.bytes - before).toBeLessThan(700_000);
    w.at.line.shut();
    expect(await w.at.end()).toMatchObject({ how: 'closed' });
    expect(marked()).toEqual([]);
  });

  it('is resized, filled by programs that want the whole screen, and whole again for whoever comes back', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    await w.at.open();
    w.at.resize(132, 40);
    w.at.type('stty size; seq 1 60 > numbers; printf "\\033[32mgreen\\033[0m\\n"\r');
    await w.at.shows('40 132');
    w.at.type('less numbers\r');
    await w.at.shows('numbers (END)'.slice(0, 7));
    await w.at.shows(/\n39\n/);
    // The same technician in a program that was begun anew.
    w.at.line.close();
    const again = new AtTheirTerminal(new TechnicianCommandLine(w.technician));
    again.resize(132, 40);
    // What stands there may be here before the ledger says that it was opened.
    await until('the ledger', () => again.line.earlierId !== undefined);
    expect(again.line.resume()).toMatchObject({ folder: w.desktop.home });
    await again.shows(/\n39\n/);
    expect(again.begunAnew).toBe(1);
    again.type('q');
    await again.shows('green');
    again.type('exit\r');
    expect(await again.end()).toMatchObject({ how: 'left' });
    await until('the ledger', () => w.told().at(-1) === 'The command line ended');
    expect(w.told().join('\n'), 'what filled the screen').toMatch(/\n37\n38\n39/);
  });

  it('is opened where it may be, and rests while the person is asked something or does something private', async () => {
    const w = await working();
    const early = refusal(w.at.open());
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    expect(marked(), 'nobody had said yes').toEqual([]);
    expect(await refusal(w.at.open('~/not-there'))).toBe('there is no such folder');
    writeFileSync(join(w.desktop.home, 'a-file'), '');
    expect(await refusal(w.at.open('a-file'))).toBe('there is no such folder');
    await w.at.open('/');
    expect(await refusal(w.at.line.open({ ...size, lineId: crypto.randomUUID() }))).toBe('too many are on their way');
    w.at.type('echo ready; pwd\r');
    await w.at.shows('ready\n/');
    await w.technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
    const asked = await until('the question', () => w.person.question());
    w.at.type('touch ~/typed-meanwhile\r');
    await until('the technician to be told', () => w.at.rested.at(-1) === 'a question is open at their computer');
    await questionToBeReady(w.person);
    await w.person.click(asked.no.x, asked.no.y);
    await until('no question', async () => (await w.person.question()) === undefined);
    const bar = await until('the bar', () => w.person.bar());
    w.at.type('echo be""fore\r');
    await w.at.shows('before');
    expect(existsSync(join(w.desktop.home, 'typed-meanwhile'))).toBe(false);
    w.at.type('sleep 1; echo se""cret > ~/late; cat ~/late\r');
    await w.at.shows('cat ~/late');
    await w.person.click(bar.private.x, bar.private.y);
    await until('the moment', () => w.technician.state.slices.presence.privateAt.length === 1);
    await until('it to be done there', () => existsSync(join(w.desktop.home, 'late')));
    w.at.type('touch ~/typed-privately\r');
    expect(w.at.text).not.toContain('secret');
    await w.person.click(bar.private.x, bar.private.y);
    await w.at.shows('secret');
    w.at.type('echo go""ing on\r');
    await w.at.shows('going on');
    expect(existsSync(join(w.desktop.home, 'typed-privately'))).toBe(false);
    w.at.line.close();
    expect(await early).not.toBe('done');
  });
});

const missing = whyNoComputers();
describe.skipIf(missing)(`on a whole computer${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('is held by a scope of the person’s systemd: what hides from every mark ends with it', async () => {
    const bettina = await computerOf(house);
    const own = new Themselves(bettina);
    const w = await working({ desktop: bettina });
    await askAndAgree(w.technician, w.person, ['use-command-line']);
    const sleeping = () => own.run('sh', '-c', 'pgrep -x sleep | wc -l');
    const before = await sleeping();
    expect((await w.at.open()).mayGoOn).toBe(false);
    w.at.type('id -un; (env -i setsid /usr/bin/sleep 9000 &); (env -i setsid /usr/bin/sleep 9001 &); echo be""gun\r');
    await w.at.shows('begun');
    await w.at.shows('\nbettina\n');
    await until('both to sleep', async () => Number(await sleeping()) === Number(before) + 2);
    w.at.line.shut();
    expect(await w.at.end()).toMatchObject({ how: 'closed', mayGoOn: false });
    expect(await sleeping()).toBe(before);
    expect(await own.run('sh', '-c', 'systemctl --user list-units --all "doorstep-run-*" --no-legend')).toBe('');
    await w.at.open();
    w.at.type('(env -i setsid /usr/bin/sleep 9003 &); echo be""gun\r');
    await w.at.shows('begun');
    await bettina.computer.read('pkill', '-9', '-x', 'doorstep');
    await until('all of it to be gone', async () => (await sleeping()) === before);
  });
});
