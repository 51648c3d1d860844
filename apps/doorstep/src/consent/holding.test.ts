import { newSession, type OpenAsk, type SessionState, languages } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import { makeKeys, readGrant } from '@porch/wire';
import { spawnSync } from 'node:child_process';
import {
  mkdirSync,
  appendFileSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { layoutPrompt } from '../x11/person/prompt-layout.ts';
import { wrapText, escapeXml } from '../x11/server/svg-text.ts';
import { FactJournal } from './fact-journal.ts';
import {
  acceptQuestion,
  callQuestion,
  GrantBook,
  hostAbilities,
  hostAbilityOf,
  questionForAsk,
  type Question,
} from '@porch/host';

const SESSION = '00000000-0000-4000-8000-000000000001';

type Place = { address: string; madeFor?: string };
const asking = (state: SessionState, ask: OpenAsk, deskName = 'M', place?: Place): Question =>
  questionForAsk(state, ask, {
    deskName,
    nowMs: 0,
    ...(place ? { place } : {}),
    warn: (asked) =>
      hostAbilityOf(asked.permission, hostAbilities)?.warn?.(asked, {
        person: { ask: () => Promise.resolve(undefined), onLocalInput: () => () => undefined },
        banner: {} as never,
      }),
  });

describe('the grants this computer holds', () => {
  const holder = makeKeys();
  const [pim, rune] = [makeKeys(), makeKeys()];
  it('count for one key, until their end, and are signed for exactly that', () => {
    const book = new GrantBook(holder, SESSION, 7);
    const { statement, signature } = book.grant('view-screen', pim, 1_000);
    expect(readGrant(statement, signature, holder.signKey)).toMatchObject({
      permission: 'view-screen',
      technicianSignKey: pim.signKey,
      number: 8,
      endsAtMs: 1_000,
    });
    expect([
      book.holds('view-screen', pim.signKey, 999),
      book.holds('view-screen', pim.signKey, 1_000),
      book.holds('view-screen', rune.signKey, 1),
      book.holds('control-input', pim.signKey, 1),
    ]).toEqual([true, false, false, false]);
  });
  it('fall with what they need, with their key, and all at once', () => {
    const book = new GrantBook(holder, SESSION, 0);
    const give = () =>
      (['view-screen', 'control-input', 'give-files'] as const).forEach((p) =>
        [pim, rune].forEach((who) => book.grant(p, who, 1e12)),
      );
    give();
    book.drop('view-screen', pim.signKey);
    expect(
      ['view-screen', 'control-input', 'give-files'].map((p) => book.holds(p as 'view-screen', pim.signKey, 1)),
    ).toEqual([false, false, true]);
    expect(book.holds('control-input', rune.signKey, 1)).toBe(true);
    book.dropKey(rune.signKey);
    expect(book.holdsAny('view-screen', 1)).toBe(false);
    give();
    book.dropAll();
    expect(book.holdsAny('give-files', 1)).toBe(false);
  });
});

const quiet = () => undefined;
describe('the journal of facts', () => {
  let folder: string;
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'facts-'))));
  afterEach(() => rmSync(folder, { recursive: true }));
  const stop = (fact: number) => ({ type: 'endSession' as const, reason: 'stop' as const, why: 'pressed Stop', fact });

  it('keeps what was not delivered over a crash, numbers on, and forgets what was delivered', async () => {
    const first = new FactJournal(folder, SESSION, quiet);
    const [a, b] = [first.add(stop), first.add(stop)];
    await b.written;
    first.markDelivered(a.id);
    await first.close();
    const second = new FactJournal(folder, SESSION, quiet);
    expect(second.waiting.map((f) => [f.id, f.command])).toEqual([[b.id, stop(2)]]);
    expect(second.add(stop).command).toEqual(stop(3));
    await second.close();
    await second.close();
  });
  it('reads on after half a line and after nonsense', async () => {
    const first = new FactJournal(folder, SESSION, quiet);
    const a = first.add(stop);
    await a.written;
    await first.close();
    const file = join(folder, `facts-${SESSION}.${process.pid}.jsonl`);
    appendFileSync(file, 'nonsense\n{"id":"x","command":{}}\n{"id":"0000');
    const second = new FactJournal(folder, SESSION, quiet);
    expect(second.waiting.map((f) => f.id)).toEqual([a.id]);
    await second.close();
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(readFileSync(file, 'utf8')).not.toContain('nonsense');
  });
  it('takes over what a program that ended left, and leaves alone what one that runs has in hand', async () => {
    const left = { id: crypto.randomUUID(), command: stop(4) };
    const theirs = { id: crypto.randomUUID(), command: stop(9) };
    // A process that has just ended, and the one that runs these tests.
    const ended = spawnSync(process.execPath, ['-e', '']).pid;
    writeFileSync(join(folder, `facts-${SESSION}.${ended}.jsonl`), `${JSON.stringify(left)}\n`);
    writeFileSync(join(folder, `facts-${SESSION}.${process.ppid}.jsonl`), `${JSON.stringify(theirs)}\n`);
    const journal = new FactJournal(folder, SESSION, quiet, 6);
    expect(journal.waiting).toEqual([left]);
    const added = journal.add(stop);
    expect(added.command, 'numbers go on after the highest that anybody knows').toEqual(stop(7));
    await added.written;
    expect(readdirSync(folder).sort()).toEqual(
      [`facts-${SESSION}.${process.pid}.jsonl`, `facts-${SESSION}.${process.ppid}.jsonl`].sort(),
    );
    await journal.close();
  });
  it('takes over what was left before a restart, whatever runs under that number now', async () => {
    const left = { id: crypto.randomUUID(), command: stop(4) };
    const lines = [{ maker: `${process.ppid}.1.another-start-of-the-computer` }, left];
    const file = join(folder, `facts-${SESSION}.${process.ppid}.jsonl`);
    writeFileSync(file, lines.map((line) => `${JSON.stringify(line)}\n`).join(''));
    const journal = new FactJournal(folder, SESSION, quiet);
    expect(journal.waiting).toEqual([left]);
    await journal.close();
  });
  it('holds where nothing can be written, says so, and leaves what was left where it lies', async () => {
    const left = { id: crypto.randomUUID(), command: stop(4) };
    writeFileSync(join(folder, `facts-${SESSION}.jsonl`), `${JSON.stringify(left)}\n`);
    // A folder stands where the new file would: for root, too, there is no writing it.
    mkdirSync(join(folder, `facts-${SESSION}.${process.pid}.jsonl.new`));
    const said: string[] = [];
    const journal = new FactJournal(folder, SESSION, (why) => said.push(why));
    const { id, written } = journal.add(stop);
    await written;
    expect(journal.waiting.map((fact) => fact.id)).toEqual([left.id, id]);
    expect(said.join()).toContain('EISDIR');
    await journal.close();
    expect(readdirSync(folder)).toContain(`facts-${SESSION}.jsonl`);
  });
  it('has a fact on the disk before it says that it is written', async () => {
    const journal = new FactJournal(folder, SESSION, quiet);
    const { id, written } = journal.add(stop);
    expect(
      journal.waiting.map((f) => f.id),
      'it holds at once',
    ).toEqual([id]);
    await written;
    expect(readFileSync(join(folder, `facts-${SESSION}.${process.pid}.jsonl`), 'utf8')).toContain(id);
    await journal.close();
  });
});

describe('the words on the screen', () => {
  const state: SessionState = {
    ...newSession,
    technicianName: 'Pim Aldersey',
    ticketRef: 'MF-201',
    purpose: 'Half a barcode',
    participants: {
      p: participantOf('p', 1, 'lead'),
      r: participantOf('r', 1, 'lead', { name: 'Rune Takahashi' }),
    },
  };
  const ask = (participantId: string, ...permissions: OpenAsk['permissions']): OpenAsk => ({
    id: 'a',
    participantId,
    permissions,
    expiresAtMs: 0,
  });

  it('say who asks, what for, and what is asked, in plain words', () => {
    const see = asking(state, ask('p', 'view-screen'), 'Marrowick Ferries');
    expect([see.title, ...see.lines].join('\n')).toMatch(
      /Pim Aldersey of Marrowick Ferries asks\nMay Pim see your screen\?\nFor ticket MF-201: Half a barcode\n.*private/,
    );
    expect(asking(state, ask('p', 'fetch-files')).lines.join()).toContain('leaves this computer');
    expect([see.yes, see.no]).toEqual(['Yes', 'No']);
  });
  it('say who takes over from whom, and everything that is asked, in one question', () => {
    const handedOver = {
      ...state,
      handover: { id: 'h', fromParticipantId: 'p', toTechnicianId: 'r', stage: 'accepted' as const, answerByMs: 0 },
    };
    const question = asking(handedOver, ask('r', 'view-screen', 'control-input', 'give-files'));
    expect([question.title, question.lines[0]]).toEqual([
      'Rune Takahashi takes over from Pim Aldersey',
      'May Rune see your screen, use your mouse and keyboard and give you files?',
    ]);
  });
  it('say which service it is, and warn in every question when that is not the one the program was made for', () => {
    const home = { address: 'help.marrowick.example', madeFor: 'help.marrowick.example' };
    const elsewhere = { address: 'help.elsewhere.example', madeFor: 'help.marrowick.example' };
    for (const language of languages) {
      const spoken = { ...state, language };
      const lines = (place?: { address: string; madeFor?: string }) =>
        asking(spoken, ask('p', 'view-screen'), 'M', place).lines;
      const accept = (place: { address: string; madeFor?: string }) =>
        acceptQuestion(spoken, 'M', place).lines.join(' ');
      expect(lines(home), language).toEqual(lines());
      expect(lines({ address: 'x.example' }), 'a build for development is made for none').toEqual(lines());
      const warning = lines(elsewhere).filter((line) => !lines().includes(line));
      expect(warning).toHaveLength(1);
      expect(warning[0]).toContain('help.marrowick.example');
      expect(warning[0]).toContain('help.elsewhere.example');
      expect(accept(elsewhere)).toContain(warning[0]);
      expect(accept(home)).not.toContain(warning[0]);
      expect(accept(home)).toContain('help.marrowick.example');
    }
  });
  it('keep both answers the same size and inside the window, whatever the text', () => {
    const texts = [
      callQuestion('Marrowick Ferries', '555-0142', 'en'),
      acceptQuestion(state, 'Marrowick Ferries', { address: 'help.marrowick.example' }),
      { ...callQuestion('M', '1', 'de'), title: 'x'.repeat(300) },
      { title: 'T '.repeat(60), lines: ['word '.repeat(80)], yes: 'Yes', no: 'No', readFirst: '', onlyYou: '' },
    ];
    expect(texts[1]?.lines.join(' ')).toContain('connected to help.marrowick.example');
    for (const layout of texts.map((question) => layoutPrompt(question))) {
      expect([layout.yes.width, layout.yes.height, layout.yes.y]).toEqual([
        layout.no.width,
        layout.no.height,
        layout.no.y,
      ]);
      expect(layout.no.x + layout.no.width).toBeLessThan(layout.yes.x);
      expect(layout.yes.y + layout.yes.height).toBeLessThan(layout.height);
      for (const line of layout.lines) expect(line.length).toBeLessThanOrEqual(54);
    }
    expect(wrapText('a '.repeat(5), 3)).toEqual(['a a', 'a a', 'a']);
    expect(escapeXml('<b>&"\u0007')).toBe('&#60;b&#62;&#38;&#34; ');
  });
});
