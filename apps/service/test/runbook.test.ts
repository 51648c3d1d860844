import type { RestClient } from '@porch/client';
import type { RunbookAction } from '@porch/core';
import { failure, House, runs, setInForce } from '@porch/testkit';
import fc from 'fast-check';
import { createPublicKey, verify } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { z } from 'zod';

let house: House;
let pim: RestClient;
let rune: RestClient;
let noor: RestClient;
let odalys: RestClient;
let wanjiru: RestClient;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  [pim, rune, noor, odalys, wanjiru] = (await Promise.all(
    ['Pim Aldersey', 'Rune Takahashi', 'Noor Castellane', 'Odalys Brandt', 'Wanjiru Holt'].map((name) =>
      house.signedIn(name),
    ),
  )) as [RestClient, RestClient, RestClient, RestClient, RestClient];
});
afterAll(() => house.close());

const action = (name: string, more: Partial<z.input<typeof RunbookAction>> = {}) => ({
  ...{ name, title: `Look at ${name}`, kind: 'script' as const, interpreter: 'sh' as const, body: 'echo here\n' },
  ...more,
});
const folder = join(inject('root'), 'demo', 'runbook');
const ofMarrowick = () => readdirSync(folder).map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }));
async function inUse(who: RestClient, name: string, scope: 'personal' | 'team' | 'desk' = 'desk') {
  const draft = await who.writeRunbookAction({ action: action(name), scope });
  await (who === rune ? pim : rune).reviewRunbookAction(draft.id).catch(() => odalys.reviewRunbookAction(draft.id));
  return odalys.approveRunbookAction(draft.id);
}

describe('an action of the runbook', () => {
  it('is drafted by one, reviewed by another, approved by a lead, and in use until a better one is', async () => {
    const draft = await noor.writeRunbookAction({ action: action('print-queue'), scope: 'desk' });
    expect(draft).toMatchObject({ version: 1, state: 'draft', authorName: 'Noor Castellane', scope: 'desk' });
    expect(await failure(noor.reviewRunbookAction(draft.id))).toBe('NOT_YOUR_ROLE');
    expect(await failure(odalys.approveRunbookAction(draft.id))).toBe('ACTION_NOT_REVIEWED');
    await rune.reviewRunbookAction(draft.id);
    expect(await failure(rune.approveRunbookAction(draft.id))).toBe('NOT_YOUR_ROLE');
    expect(await odalys.approveRunbookAction(draft.id)).toMatchObject({
      ...{ state: 'approved', reviewerName: 'Rune Takahashi', approverName: 'Odalys Brandt' },
    });

    const better = await pim.writeRunbookAction({
      ...{ action: action('print-queue', { body: 'echo better\n' }), scope: 'desk', basedOn: draft.id },
    });
    expect(await failure(pim.reviewRunbookAction(better.id))).toBe('ACTION_OF_YOUR_OWN');
    const approved = async () =>
      (await wanjiru.runbookActions({ name: 'print-queue', state: 'approved' })).items.map(({ id }) => id);
    expect(await approved()).toEqual([draft.id]);
    await rune.reviewRunbookAction(better.id);
    const done = await odalys.approveRunbookAction(better.id);
    expect(await approved()).toEqual([better.id]);
    expect(done.versions.map(({ version, state, authorName }) => [version, state, authorName])).toEqual([
      [2, 'approved', 'Pim Aldersey'],
      [1, 'replaced', 'Noor Castellane'],
    ]);
    expect(done.hash).not.toBe(draft.hash);
  });

  it('is seen by those whose it is, and by who leads them', async () => {
    const own = await inUse(rune, 'only-mine', 'personal');
    const teams = await inUse(pim, 'for-the-piers', 'team');
    const names = async (who: RestClient) => (await who.runbookActions({ limit: 200 })).items.map(({ name }) => name);
    expect(await names(rune)).toEqual(expect.arrayContaining(['only-mine', 'for-the-piers']));
    expect(await names(pim)).not.toContain('only-mine');
    expect(await names(wanjiru)).not.toContain('for-the-piers');
    expect(await names(odalys)).toEqual(expect.arrayContaining(['only-mine', 'for-the-piers']));
    expect(await failure(pim.runbookAction(own.id))).toBe('ACTION_NOT_FOUND');
    expect(await failure(wanjiru.withdrawRunbookAction(teams.id))).toBe('ACTION_NOT_FOUND');
    // Two people each have one that is called the same.
    expect(await pim.writeRunbookAction({ action: action('only-mine'), scope: 'personal' })).toMatchObject({
      version: 1,
    });
    expect(await failure(noor.withdrawRunbookAction(teams.id))).toBe('NOT_YOUR_ROLE');
    await pim.withdrawRunbookAction(teams.id);
    expect(await names(rune)).not.toContain('for-the-piers');
  });

  it('is never written over what somebody has not seen, whoever writes at the same time', async () => {
    const first = await pim.writeRunbookAction({ action: action('at-once'), scope: 'desk' });
    expect(await failure(rune.writeRunbookAction({ action: action('at-once'), scope: 'desk' }))).toBe('ACTION_CHANGED');
    const outcomes = await Promise.all(
      [pim, rune, noor].map((who, at) =>
        failure(
          who.writeRunbookAction({
            action: action('at-once', { body: `echo ${at}` }),
            scope: 'desk',
            basedOn: first.id,
          }),
        ),
      ),
    );
    expect(outcomes.filter((one) => one === 'ACTION_CHANGED')).toHaveLength(2);
  });

  it('that does not hold together says what is wrong with it', async () => {
    const faults = (more: Parameters<typeof action>[1]) =>
      pim.writeRunbookAction({ action: action('wrong', more), scope: 'desk' }).then(
        () => [],
        (error: { details?: { faults?: string[] } }) => error.details?.faults,
      );
    expect(await faults({ interpreter: undefined })).toEqual(['no-interpreter']);
    expect(await faults({ kind: 'file', interpreter: undefined, target: '../.bashrc' })).toEqual(['target-outside']);
    expect(await faults({ kind: 'file', interpreter: undefined, target: '/etc/passwd' })).toEqual(['target-outside']);
    expect(await faults({ kind: 'instruction', interpreter: undefined, body: 'Look.' })).toEqual(['no-steps']);
    expect(await faults({ parameters: [{ name: 'A', label: 'A', kind: 'choice' }] })).toEqual(['choices-missing']);
    expect(await faults({ undo: 'wrong' })).toEqual(['undoes-itself']);
  });

  it('is found by the beginnings of its words, whatever somebody types', async () => {
    await inUse(pim, 'straekkode', 'desk');
    const found = async (words: string) => (await pim.runbookActions({ words })).items.map(({ name }) => name);
    expect(await found('look straek')).toEqual(['straekkode']);
    expect(await found('% _')).toEqual([]);
    const text = fc.string({ unit: 'grapheme', maxLength: 60 }).filter((one) => !one.includes('\u0000'));
    await fc.assert(
      fc.asyncProperty(text, async (words) => {
        expect(Array.isArray((await pim.runbookActions({ words })).items)).toBe(true);
      }),
      { ...runs(), examples: [["a' OR 1=1 --"], ['%'], ['🖨']] },
    );
    const page = await pim.runbookActions({ limit: 1 });
    expect(page.items).toHaveLength(1);
    expect(await failure(pim.runbookActions({ words: 'other', cursor: page.next ?? '' }))).toBe('CURSOR_UNKNOWN');
  });

  it('is nobody’s who is not signed in, and no customer’s', async () => {
    const { customerRest } = await house.sessionUnderWay();
    expect(await failure(customerRest.runbookActions())).toBe('SIGN_IN_NEEDED');
    expect(await failure(customerRest.exportPack())).toBe('SIGN_IN_NEEDED');
  });
});

describe('a pack', () => {
  it('comes in as drafts and goes out as it came, signed so that common tools can check it', async () => {
    const files = ofMarrowick();
    const { signer, items } = await rune.importPack(files, 'desk');
    expect(signer).toEqual({ who: 'nobody' });
    expect(items.map(({ result, why }) => why ?? result)).toEqual(files.map(() => 'drafted'));
    for (const { id = '' } of items) {
      await pim.reviewRunbookAction(id);
      await odalys.approveRunbookAction(id);
    }
    const out = await wanjiru.exportPack();
    const text = (name: string) => out.find((file) => file.name === name)?.text ?? '';
    const key = createPublicKey(text('pack.pem'));
    const signature = Buffer.from(text('pack.sig'), 'base64');
    expect(verify(undefined, Buffer.from(text('pack.sums')), key, signature)).toBe(true);
    const again = await rune.importPack(out, 'desk');
    expect(again.signer.who).toBe('this-desk');
    const own = again.items.filter(({ file }) => files.some(({ name }) => name === file));
    expect(own.map(({ result }) => result)).toEqual(files.map(() => 'unchanged'));
    for (const file of files)
      expect(text(file.name).split(/^---$/m).at(-1), file.name).toBe(file.text.split(/^---$/m).at(-1));
  });

  it('that is other than it was signed comes in not at all, and what was put beside it neither', async () => {
    const out = await rune.exportPack();
    const changed = out.map((file) =>
      file.name.endsWith('.action') ? { ...file, text: `${file.text}rm -rf ~\n` } : file,
    );
    expect(await failure(rune.importPack(changed, 'personal'))).toBe('PACK_CHANGED');
    const unsigned = out.map((file) => (file.name === 'pack.sig' ? { ...file, text: 'AAAA' } : file));
    expect(await failure(rune.importPack(unsigned, 'personal'))).toBe('PACK_CHANGED');
    expect(
      await failure(
        rune.importPack(
          out.filter(({ name }) => name !== 'pack.pem'),
          'personal',
        ),
      ),
    ).toBe('PACK_CHANGED');
    const beside = { name: 'beside.action', text: '---\ntitle: A\nkind: script\ninterpreter: sh\n---\necho' };
    const { items } = await rune.importPack([...out, beside], 'personal');
    expect(items.find(({ file }) => file === 'beside.action')).toMatchObject({ result: 'refused', why: 'not-signed' });
  });

  it('is refused file by file, with what is wrong', async () => {
    const front = 'title: A fault\nkind: script\ninterpreter: sh';
    const wrong = {
      'A fault.action': [`---\n${front}\n---\necho`, 'name'],
      'a-fault.sh': [`---\n${front}\n---\necho`, 'name'],
      '../../etc/cron.action': [`---\n${front}\n---\necho`, 'drafted'],
      'no-front.action': ['echo', 'front-matter'],
      'more.action': [`---\n${front}\nrun-as: root\n---\necho`, 'front-matter'],
      'bomb.action': ['---\ntitle: &a [x]\nkind: [*a, *a]\n---\necho', 'front-matter'],
      'reader.action': ['---\ntitle: A\nkind: script\ninterpreter: /tmp/sh\n---\necho', 'front-matter'],
      'empty.action': [`---\n${front}\n---\n \n`, 'empty'],
      'web.action': ['---\ntitle: <script>alert(1)</script>\nkind: script\ninterpreter: sh\n---\necho', 'drafted'],
    } as const;
    const files = Object.entries(wrong).map(([name, [text]]) => ({ name, text }));
    const { items } = await pim.importPack(files, 'personal');
    expect(items.map(({ file, result, why }) => [file, why ?? result])).toEqual(
      Object.entries(wrong).map(([name, [, what]]) => [name, what]),
    );
  });
});

describe('choosing an action for a session', () => {
  it('says in its ledger which very text may be run, and only what is approved, or allowed as a draft to its author', async () => {
    const { technician, rest, started } = await house.sessionUnderWay();
    const { session } = started;
    const choose = (actionId: string, who = rest) =>
      who.chooseRunbookAction(session.id, {
        ...{ runId: crypto.randomUUID(), actionId, participantId: technician.participantId },
      });
    const approved = await inUse(rune, 'to-choose');
    const { runId, text } = await choose(approved.id);
    expect(JSON.parse(text)).toMatchObject({ name: 'to-choose', body: 'echo here\n' });
    expect(technician.state.slices.runbook[runId]).toMatchObject({ hash: approved.hash, version: 1, isDraft: false });
    // For nobody else's place in a session, and never what is not approved.
    expect(await failure(choose(approved.id, rune))).toBe('NOT_PRESENT');
    const draft = await rest.writeRunbookAction({ action: action('my-draft'), scope: 'personal' });
    expect(await failure(choose(draft.id))).toBe('ACTION_NOT_APPROVED');
    await setInForce(house, 'runbook-drafts', 'yes');
    expect(await failure(choose(draft.id))).toBe('no failure');
    const theirs = await rune.writeRunbookAction({ action: action('runes-draft'), scope: 'desk' });
    expect(await failure(choose(theirs.id))).toBe('ACTION_NOT_APPROVED');
    await setInForce(house, 'runbook-drafts', '--as-it-comes');
    await odalys.withdrawRunbookAction(approved.id);
    expect(await failure(choose(approved.id))).toBe('ACTION_NOT_FOUND');
  });

  it('ticks the steps of an instruction, once each, by whoever works in the session', async () => {
    const { technician, rest, started } = await house.sessionUnderWay();
    const { session } = started;
    const draft = await rune.writeRunbookAction({
      ...{
        scope: 'desk',
        action: action('steps', { kind: 'instruction', interpreter: undefined, body: '- [ ] One\n- [ ] Two' }),
      },
    });
    await pim.reviewRunbookAction(draft.id);
    await odalys.approveRunbookAction(draft.id);
    const runId = crypto.randomUUID();
    const { participantId } = technician;
    await rest.chooseRunbookAction(session.id, { runId, actionId: draft.id, participantId });
    const tick = (step: number, isDone: boolean) =>
      failure(technician.command({ type: 'runbook/tick', runId, step, isDone }));
    for (const [step, isDone] of [
      [1, true],
      [0, true],
      [0, true],
      [1, false],
    ] as const)
      expect(await tick(step, isDone)).toBe('no failure');
    expect(technician.state.slices.runbook[runId]?.ticked).toEqual([0]);
    expect(await tick(2, true)).toBe('STEP_UNKNOWN');
  });
});
