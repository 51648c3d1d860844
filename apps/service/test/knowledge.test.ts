import type { RestClient } from '@porch/client';
import { failure, House, runs } from '@porch/testkit';
import fc from 'fast-check';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';

let house: House;
let pim: RestClient;
let rune: RestClient;
let noor: RestClient;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  [pim, rune, noor] = (await Promise.all(
    ['Pim Aldersey', 'Rune Takahashi', 'Noor Castellane'].map((name) => house.signedIn(name)),
  )) as [RestClient, RestClient, RestClient];
});
afterAll(() => house.close());

const note = {
  ...{ name: 'roll-the-wrong-way', language: 'en' as const, topic: 'Printing', labels: ['till'] },
  ...{ title: 'Printer prints blank passes', text: 'Thermal paper has **one** side that prints. Turn the roll.' },
};
const folder = join(inject('root'), 'demo', 'knowledge');
const ofMarrowick = () => readdirSync(folder).map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }));

describe('a knowledge note', () => {
  it('is drafted by one, reviewed by another, and stays in use until a better one is', async () => {
    const draft = await noor.writeKnowledgeNote(note);
    expect(draft).toMatchObject({ ...note, version: 1, state: 'draft', authorName: 'Noor Castellane' });
    expect(draft.excerpt).toBe('Thermal paper has one side that prints. Turn the roll.');
    // A trainee reviews nothing, and nobody what they wrote.
    expect(await failure(noor.reviewKnowledgeNote(draft.id))).toBe('NOT_YOUR_ROLE');
    expect(await pim.reviewKnowledgeNote(draft.id)).toMatchObject({ state: 'reviewed', reviewerName: 'Pim Aldersey' });

    const better = await pim.writeKnowledgeNote({ ...note, text: 'Turn the roll over.', basedOn: draft.id });
    expect(better).toMatchObject({ version: 2, state: 'draft' });
    expect(await failure(pim.reviewKnowledgeNote(better.id))).toBe('NOTE_OF_YOUR_OWN');
    const inUse = async () => (await rune.knowledgeNotes({ state: 'reviewed' })).items.map(({ id }) => id);
    expect(await inUse()).toEqual([draft.id]);
    await rune.reviewKnowledgeNote(better.id);
    expect(await inUse()).toEqual([better.id]);
    expect(await failure(rune.knowledgeNote(draft.id))).toBe('NOTE_NOT_FOUND');
    // Said again, it is as it is.
    expect(await rune.reviewKnowledgeNote(better.id)).toMatchObject({ reviewerName: 'Rune Takahashi' });
  });

  it('is never written over what somebody has not seen', async () => {
    const [known] = (await pim.knowledgeNotes({ words: 'blank' })).items;
    expect(await failure(pim.writeKnowledgeNote(note))).toBe('NOTE_CHANGED');
    const theirs = await rune.writeKnowledgeNote({ ...note, text: 'Theirs', basedOn: known?.id });
    expect(await failure(pim.writeKnowledgeNote({ ...note, text: 'Mine', basedOn: known?.id }))).toBe('NOTE_CHANGED');
    const both = await pim.writeKnowledgeNote({ ...note, text: 'Both', basedOn: theirs.id });
    expect(await failure(rune.knowledgeNote(theirs.id))).toBe('NOTE_NOT_FOUND');
    // Two who write at once, from the same: one of them.
    const outcomes = await Promise.all(
      [pim, rune, noor].map((who) => failure(who.writeKnowledgeNote({ ...note, text: 'At once', basedOn: both.id }))),
    );
    expect(outcomes.filter((one) => one === 'NOTE_CHANGED')).toHaveLength(2);
  });

  it('goes out of use by whoever wrote it or leads them, and by nobody else', async () => {
    const draft = await noor.writeKnowledgeNote({ ...note, name: 'of-noor' });
    expect(await failure(pim.withdrawKnowledgeNote(draft.id))).toBe('NOT_YOUR_ROLE');
    await noor.withdrawKnowledgeNote(draft.id);
    expect(await failure(noor.withdrawKnowledgeNote(draft.id))).toBe('NOTE_NOT_FOUND');
    const again = await noor.writeKnowledgeNote({ ...note, name: 'of-noor' });
    expect(again.version).toBe(2);
    await (await house.signedIn('Odalys Brandt')).withdrawKnowledgeNote(again.id);
    expect((await pim.knowledgeNotes({ words: 'of noor' })).items.map(({ name }) => name)).not.toContain('of-noor');
  });

  it('is nobody’s who is not signed in, and no customer’s', async () => {
    const { customerRest } = await house.sessionUnderWay();
    expect(await failure(customerRest.knowledgeNotes())).toBe('SIGN_IN_NEEDED');
    expect(await failure(customerRest.exportKnowledgeNotes())).toBe('SIGN_IN_NEEDED');
  });
});

describe('knowledge notes as files', () => {
  it('come in as drafts, go out as they came, and are not brought in twice', async () => {
    const files = ofMarrowick();
    const results = await rune.importKnowledgeNotes(files);
    expect(results.map(({ result }) => result)).toEqual(files.map(() => 'drafted'));
    for (const { id = '' } of results) await pim.reviewKnowledgeNote(id);
    const out = (await noor.exportKnowledgeNotes()).filter(({ name }) => files.some((file) => file.name === name));
    expect(out.map(({ name }) => name)).toEqual(files.map(({ name }) => name).sort());
    expect((await rune.importKnowledgeNotes(out)).map(({ result }) => result)).toEqual(out.map(() => 'unchanged'));
    for (const file of files) {
      const [its] = out.filter(({ name }) => name === file.name);
      expect(its?.text.split(/^---$/m).at(-1)?.trim()).toBe(file.text.split(/^---$/m).at(-1)?.trim());
    }
  });

  it('are refused one by one, with what is wrong', async () => {
    const good = '---\ntitle: A fault\n---\nText';
    const wrong = {
      'A fault.en.md': [good, 'name'],
      'a-fault.md': [good, 'name'],
      'a-fault.xx.md': [good, 'name'],
      '../../etc/passwd.en.md': [good, 'drafted'],
      'no-front.en.md': ['Text', 'front-matter'],
      'no-title.en.md': ['---\ntopic: Printing\n---\nText', 'front-matter'],
      'more.en.md': ['---\ntitle: A\nrun: rm -rf /\n---\nText', 'front-matter'],
      'bomb.en.md': ['---\ntitle: &a [x]\nlabels: [*a, *a]\n---\nText', 'front-matter'],
      'tag.en.md': ['---\ntitle: !!js/function "x"\n---\nText', 'drafted'],
      'empty.en.md': ['---\ntitle: A\n---\n  \n', 'text'],
    } as const;
    const results = await pim.importKnowledgeNotes(Object.entries(wrong).map(([name, [text]]) => ({ name, text })));
    expect(results.map(({ file, result, why }) => [file, why ?? result])).toEqual(
      Object.entries(wrong).map(([name, [, what]]) => [name, what]),
    );
    // Of a path only the last part counts: no file is read or written there.
    expect((await pim.knowledgeNotes({ words: 'fault' })).items.map(({ name }) => name)).toContain('passwd');
  });
});

describe('looking for knowledge notes', () => {
  it('finds by stems in each language, while somebody is still typing, and says what is none', async () => {
    const names = async (query: Parameters<RestClient['knowledgeNotes']>[0]) =>
      (await pim.knowledgeNotes(query)).items.map(({ name, language }) => `${name}.${language}`);
    expect(await names({ words: 'printers barcod' })).toContain('barcode-cut-in-half.en');
    expect(await names({ words: 'strekkode' })).toEqual(['barcode-cut-in-half.no']);
    expect(await names({ words: 'Strichcodes' })).toEqual(['barcode-cut-in-half.de']);
    expect(await names({ words: 'strekkode', language: 'de' })).toEqual([]);
    // A kind of device that it is for finds it as well.
    expect(await names({ words: 'till' })).toContain('barcode-cut-in-half.en');
    expect(await names({ topic: 'On board' })).toEqual(['manifest-separators.en']);
    expect(await names({ words: '…!?' })).toEqual([]);
    const first = await pim.knowledgeNotes({ words: 'the', limit: 3 });
    expect(first.items).toEqual([]);
    const page = await pim.knowledgeNotes({ limit: 3 });
    const rest = await pim.knowledgeNotes({ limit: 200, ...(page.next ? { cursor: page.next } : {}) });
    expect(new Set([...page.items, ...rest.items].map(({ id }) => id)).size).toBe(3 + rest.items.length);
    expect(await failure(pim.knowledgeNotes({ words: 'other', cursor: page.next ?? '' }))).toBe('CURSOR_UNKNOWN');
  });

  it('takes whatever somebody types for words', async () => {
    // A NUL is no text for anybody here.
    const text = fc.string({ unit: 'grapheme', maxLength: 60 }).filter((one) => !one.includes('\u0000'));
    await fc.assert(
      fc.asyncProperty(text, async (words) => {
        expect(Array.isArray((await pim.knowledgeNotes({ words })).items)).toBe(true);
      }),
      { ...runs(), examples: [["a' | b & !c <-> (d):*"], ['🖨'], [' & '], ["x'"]] },
    );
  });

  it('finds for a session by its ticket, in the language of whoever reads, and never drafts', async () => {
    const started = await pim.start({ ticketRef: 'MF-201' });
    const found = await pim.sessionKnowledge(started.session.id);
    expect(found.map(({ name, language }) => `${name}.${language}`)[0]).toBe('barcode-cut-in-half.en');
    expect(found.every(({ state }) => state === 'reviewed')).toBe(true);
    // Each note once, whatever languages it is in.
    expect(new Set(found.map(({ name }) => name)).size).toBe(found.length);
    // Nothing of it fits: nothing is said.
    expect(await pim.sessionKnowledge((await pim.start({})).session.id)).toEqual([]);
    expect(await failure(noor.sessionKnowledge(started.session.id))).toBe('SESSION_NOT_FOUND');
  });
});
