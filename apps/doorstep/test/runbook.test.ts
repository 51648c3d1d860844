import { RunRefusedThere, TechnicianRunbook } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { whyNoComputers } from '@porch/demo';
import {
  actionRuns,
  askAndAgree,
  computerOf,
  House,
  markedProcesses,
  runbookInUse,
  Themselves,
  until,
} from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { existsSync, mkdirSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Actions of the runbook at real desktops, looked at from outside: their processes, their files. */
let house: House;
let inUse: Awaited<ReturnType<typeof runbookInUse>>;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  inUse = await runbookInUse(house);
});
afterAll(() => house.close());

type Where = NonNullable<Parameters<House['withDoorstep']>[1]>;
async function working(where: Where = {}) {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, where);
  await until('Doorstep', () => s.technician.state.holderId);
  const tamper = { how: (chosen: { runId: string; text: string }) => chosen };
  const runbook = new TechnicianRunbook(s.technician, {
    chooseRunbookAction: async (...asked) => tamper.how(await s.rest.chooseRunbookAction(...asked)),
  });
  const { look, begin, run } = actionRuns(runbook, inUse);
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const takeBack = () =>
    s.customer.command({
      ...{ type: 'withdrawPermission', participantId: s.technician.participantId, why: 'enough' },
      permission: 'run-runbook',
    });
  return { ...s, ...d, tamper, runbook, look, begin, run, told, takeBack };
}
const refusal = (attempt: Promise<unknown>): Promise<string> =>
  attempt.then(
    () => 'done',
    (error: unknown) => (error instanceof RunRefusedThere ? error.message : String(error)),
  );
const marked = () => markedProcesses(house.folder);
const leftBehind = (runId: string) => existsSync(join(tmpdir(), `doorstep-run-${runId}`));

describe('a script of the runbook', () => {
  it('runs as the person, with what it is given and nothing else, and both sides read what came of it', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const odd = `$(touch /tmp/doorstep-never); '"\`; -- \${HOME} ✓`;
    const action = {
      ...{ title: 'What is it given', interpreter: 'bash' as const },
      body: `printf '%s|' "$0" "$GIVEN_WORDS" "$#" "$PWD"; read -r line; echo "read: $? [$line]"; echo wrong >&2; exit 7`,
      parameters: [{ name: 'WORDS', label: 'Words', kind: 'text' as const }],
    };
    const first = await w.begin(action, { WORDS: odd });
    expect(first.looked).toMatchObject({ command: ['/usr/bin/bash', 'script'], place: w.desktop.home, mayGoOn: true });
    const ended = await first.end();
    expect(ended).toMatchObject({ outcome: 'failed', code: 7, mayGoOn: false });
    expect(ended.text).toContain(`|${odd}|0|${w.desktop.home}|read: 1 []`);
    expect(ended.text).toContain('wrong');
    expect(existsSync('/tmp/doorstep-never')).toBe(false);
    await until('the ledger', () => w.told().at(-1) === '“What is it given”: it failed with code 7');
    expect(w.told()).toContain(`Pim Aldersey runs “What is it given” with Words: ${odd}`);
    expect(w.told().some((line) => line.includes('read: 1 []'))).toBe(true);
    expect(leftBehind(first.looked.runId)).toBe(false);
    for (const [interpreter, body] of [
      ['python3', 'import os; print("py", os.environ["GIVEN_A"])'],
      ['perl', 'print "pl $ENV{GIVEN_A}\n"'],
      ['sh', 'echo "sh $GIVEN_A"'],
    ] as const) {
      const parameters = [{ name: 'A', label: 'A', kind: 'number' as const, first: '4.1' }];
      expect((await w.run({ interpreter, body, parameters })).text).toMatch(/^(py|pl|sh) 4\.1\n$/);
    }
  });

  it('shows no secret anywhere, however it prints it', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const parameters = [{ name: 'PIN', label: 'PIN', kind: 'secret' as const }];
    const secret = 'harbour lamp 88';
    const body =
      'printf "%s" "$GIVEN_PIN"; printf "harbour lam"; sleep 0.1; printf "p 88\\n"; printf "the end: harbour l"';
    const ended = await w.run({ body, parameters }, { PIN: secret });
    expect(ended.text).toBe('••••••\nthe end: •••');
    expect(await refusal(w.look({ body, parameters }, { PIN: 'abc' }))).toBe('a value for it is missing or wrong');
    expect(JSON.stringify(w.technician.entries)).not.toContain(secret);
    // Never where another account, or the person themselves, could read it in a list of what runs.
    const still = await w.begin({ body: 'echo here; exec sleep 600', parameters }, { PIN: secret });
    await still.says('here');
    for (const pid of marked()) expect(readFileSync(`/proc/${pid}/cmdline`, 'latin1')).not.toContain('harbour lamp');
    w.runbook.stop(still.looked);
    expect(await still.end()).toMatchObject({ outcome: 'stopped' });
  });

  it('ends with a stop, its time, and the permission, with all that it started and hid', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const hides = 'sh -c "setsid sh -c \\"trap \'\' TERM HUP; while :; do sleep 1; done\\" &"; echo begun; sleep 600';
    const byHand = await w.begin({ body: hides });
    await byHand.says('begun');
    expect(marked().length).toBeGreaterThan(1);
    w.runbook.stop(byHand.looked);
    expect(await byHand.end()).toMatchObject({ outcome: 'stopped', mayGoOn: false });
    expect(marked()).toEqual([]);
    expect(await w.run({ body: hides, limitSeconds: 1 })).toMatchObject({ outcome: 'took-too-long' });
    expect(marked()).toEqual([]);
    // What it leaves in the background by itself ends with it, too, and so do its files.
    expect(await w.run({ body: 'setsid sleep 600 & touch "$TMPDIR/left"; echo done' })).toMatchObject({
      outcome: 'done',
    });
    expect(marked()).toEqual([]);
    const lasting = await w.begin({ body: hides });
    await lasting.says('begun');
    await w.takeBack();
    await until('all of it to be gone', () => marked().length === 0);
    await until('both sides to read so', () => w.told().at(-1)?.includes('broken off'));
    expect(leftBehind(lasting.looked.runId)).toBe(false);
  });

  it('prints as much as it likes: it is read slowly, kept up to a limit, and does nothing to whoever reads it', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const colours = await w.run({
      body: `printf '\\033[31mred\\033[0m \\033]0;title\\007\\033]8;;http://a.example\\007link\\033]8;;\\007\\r\\nnext\\b\\b\\n\\342\\200\\256evil\\n\\377\\n'`,
    });
    expect(colours.text).toBe('red link\nnext\nevil\n\ufffd\n');
    const flood = await w.begin({ body: 'yes "0123456789 the ferry leaves at noon"' });
    await until('much of it', () => flood.now().text.length > 200_000);
    // What comes after goes on meanwhile: a word reaches both sides.
    await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'Still here.' });
    w.runbook.stop(flood.looked);
    const { text, outcome } = await flood.end();
    expect(outcome).toBe('stopped');
    expect(text.length).toBeLessThanOrEqual(4 * 1024 * 1024);
    const said = w.technician.entries.filter(({ event }) => event.type === 'runbook/said');
    expect(said.length).toBeLessThan(20);
    expect(marked()).toEqual([]);
  });

  it('is run by programs of the system, whatever the person’s account puts before them', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const trap = join(w.desktop.home, 'bin');
    mkdirSync(trap, { recursive: true });
    for (const name of ['sh', 'bash', 'ls', 'systemctl'])
      writeFileSync(join(trap, name), '#!/bin/sh\necho trapped\n', { mode: 0o755 });
    const ended = await w.run({
      body: 'ls -d /usr; echo "$PATH"; echo "${LD_PRELOAD-none} ${BASH_ENV-none}"',
      interpreter: 'bash',
    });
    expect(ended.text).toBe('/usr\n/usr/local/bin:/usr/bin:/bin:/usr/sbin:/sbin\nnone none\n');
  });
});

describe('what is run', () => {
  it('is what the ledger says was chosen, by whom it was chosen, once, and on this kind of computer', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const { id, title } = await inUse({ body: 'echo right' });
    const look = () => refusal(w.runbook.look(id, { title }, {}));
    w.tamper.how = ({ runId, text }) => ({ runId, text: text.replace('echo right', 'echo forged') });
    expect(await look()).toBe('it is not what the desk approved');
    w.tamper.how = ({ text }) => ({ runId: crypto.randomUUID(), text });
    const unchosen = look();
    w.tamper.how = (chosen) => chosen;
    expect(await unchosen).toBe('it is not what the desk approved');
    expect(await refusal(w.look({ body: 'echo', platforms: ['windows'] }))).toBe(
      'this action is not for this kind of computer',
    );
    expect(await refusal(w.look({ body: 'echo', rights: 'administrator' }))).toContain('administrator rights');
    expect(await refusal(w.look({ body: 'echo', needs: ['fetch-files'] }))).toBe(
      'another permission is missing for it',
    );
    expect(await refusal(w.look({ body: 'echo' }, { NOT_THERE: 'x' }))).toBe('a value for it is missing or wrong');
    // Needed besides, and taken back: what runs ends.
    await askAndAgree(w.technician, w.person, ['fetch-files']);
    const needing = await w.begin({ body: 'echo begun; sleep 600', needs: ['fetch-files'] });
    await needing.says('begun');
    await w.customer.command({
      ...{ type: 'withdrawPermission', participantId: w.technician.participantId, why: 'enough' },
      permission: 'fetch-files',
    });
    await until('all of it to be gone', () => marked().length === 0);
  });

  it('may be a file: it goes where it is meant in their home, whole, and nowhere else', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const file = (target: string, body = 'separator = {{SEPARATOR}}\nhome = {{HOME}}\n') => ({
      ...{ kind: 'file' as const, target, body },
      parameters: [{ name: 'SEPARATOR', label: 'Separator', kind: 'choice' as const, choices: [';', ','] }],
    });
    const path = join(w.desktop.home, '.config/manifest/export.ini');
    const first = await w.begin(file('~/.config/manifest/export.ini'), { SEPARATOR: ';' });
    expect(first.looked).toMatchObject({ place: path, command: [], isReplacing: false });
    expect(await first.end()).toMatchObject({ outcome: 'done' });
    expect(readFileSync(path, 'utf8')).toBe('separator = ;\nhome = {{HOME}}\n');
    const again = await w.begin(file('.config/manifest/export.ini'), { SEPARATOR: ',' });
    expect(again.looked.isReplacing).toBe(true);
    await again.end();
    expect(readFileSync(path, 'utf8')).toContain('separator = ,');
    expect(readdirSync(join(w.desktop.home, '.config/manifest'))).toEqual(['export.ini']);
    symlinkSync('/etc', join(w.desktop.home, 'out'));
    expect(await refusal(w.look(file('~/out/porch.conf'), { SEPARATOR: ';' }))).toContain('outside the home folder');
    mkdirSync(join(w.desktop.home, 'a-folder'));
    expect(await refusal(w.look(file('~/a-folder'), { SEPARATOR: ';' }))).toBe('a folder is there already');
    expect(await refusal(w.look(file('~/x'), { SEPARATOR: '.' }))).toBe('a value for it is missing or wrong');
  });

  it('ends when Doorstep is killed: nobody is left who could end it', async () => {
    const w = await working();
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const lasting = await w.begin({ body: 'setsid sleep 600 & echo begun; sleep 600' });
    await lasting.says('begun');
    expect(leftBehind(lasting.looked.runId)).toBe(true);
    w.doorstep.kill('SIGKILL');
    await until('all of it to be gone', () => marked().length === 0 && !leftBehind(lasting.looked.runId));
    // The next one says for it what it cannot say any longer, and nobody waits for it.
    house.startDoorstep(w.desktop, `${house.url}/join/${w.link}`);
    expect(await lasting.end()).toMatchObject({ outcome: 'broken-off' });
    const run = () => w.technician.state.slices.runbook[lasting.looked.runId];
    await until('the ledger', () => run()?.outcome === 'broken-off');
    expect(w.technician.entries.filter(({ event }) => event.type === 'runbook/ended')).toHaveLength(1);
  });
});

const missing = whyNoComputers();
describe.skipIf(missing)(`on a whole computer${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('a script is held by a scope of the person’s systemd: what hides from every mark ends with it', async () => {
    const bettina = await computerOf(house);
    const own = new Themselves(bettina);
    const w = await working({ desktop: bettina });
    await askAndAgree(w.technician, w.person, ['run-runbook']);
    const sleeping = () => own.run('sh', '-c', 'pgrep -x sleep | wc -l');
    const before = await sleeping();
    const hidden = await w.begin({
      interpreter: 'bash',
      body: 'id -un; (env -i setsid /usr/bin/sleep 9000 &); (env -i setsid /usr/bin/sleep 9001 &); echo begun; sleep 9002',
    });
    expect(hidden.looked.mayGoOn).toBe(false);
    await hidden.says('begun');
    expect(hidden.now().text).toContain('bettina');
    await until('all of them to sleep', async () => Number(await sleeping()) === Number(before) + 3);
    w.runbook.stop(hidden.looked);
    expect(await hidden.end()).toMatchObject({ outcome: 'stopped', mayGoOn: false });
    expect(await sleeping()).toBe(before);
    expect(await own.run('sh', '-c', 'systemctl --user list-units --all "doorstep-run-*" --no-legend')).toBe('');

    // What it says that it touches is saved before, where that is allowed.
    own.file('Documents/board.conf', 'colour = blue\n');
    await askAndAgree(w.technician, w.person, ['make-safe-points']);
    const changing = await w.begin({
      ...{ title: 'Paint the board', touches: { paths: ['~/Documents/board.conf'] } },
      body: 'echo "colour = red" > ~/Documents/board.conf; echo painted',
    });
    expect(changing.looked.isSaved).toBe(true);
    expect(await changing.end()).toMatchObject({ outcome: 'done', text: 'painted\n' });
    const points = () => Object.values(w.technician.state.slices['safe-points']).map(({ name }) => name);
    await until('the safe point', () => points().includes('Before “Paint the board”'));
    expect(readFileSync(join(bettina.home, 'Documents/board.conf'), 'utf8')).toBe('colour = red\n');
    // The computer's own runs go with a kill of Doorstep, too.
    const lasting = await w.begin({ body: '(env -i setsid /usr/bin/sleep 9003 &); echo begun; sleep 9004' });
    await lasting.says('begun');
    await bettina.computer.read('pkill', '-9', '-x', 'doorstep');
    await until('all of it to be gone', async () => (await sleeping()) === before);
  });
});
