import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { languages, type Language } from '../language.ts';
import { allPermissions } from '../permission/permission.ts';
import { evolveSession } from '../session/evolve.ts';
import { notedFacts } from '../ability/noted-facts.ts';
import { SessionEvent } from '../session/session-events.ts';
import { newSession, type SessionState } from '../session/session-state.ts';
import { ledger } from '@porch/words/ledger';
import { customersAct } from '../abilities/index.ts';
import { sentenceForCustomer } from './to-customer.ts';
import { sentenceForTechnicians } from './to-technicians.ts';

/* What customers read of a session in their own language, for every event that there is. */
const uuid = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const [PIM, RUNE, BETTINA] = [uuid(1), uuid(2), uuid(3)];
/** Names and words of people are the same in every language: none of these is English. */
const NAMES = { pim: 'Pim Aldersey', rune: 'Rune Takahashi', bettina: 'Bettina Crole' };
const ENGLISH =
  /\b(the|you|your|was|were|are|this|that|they|their|nobody|somebody|allowed|asked|session|with|not|and|to)\b/i;
/** German has "was" and "not", Norwegian neither. */
const foreign = (text: string, language: Language): boolean =>
  language === 'de' ? ENGLISH.test(text.replace(/\b(was|not|den|so)\b/gi, '')) : ENGLISH.test(text);

const key = 'a'.repeat(64);
const before: readonly SessionEvent[] = [
  {
    type: 'sessionPrepared',
    by: 'technician:pim',
    technicianId: 'pim',
    behind: 'nothing',
    personal: { technicianName: NAMES.pim, purpose: 'x' },
  },
  ...(
    [
      [PIM, 1, 'technician', NAMES.pim],
      [RUNE, 2, 'technician', NAMES.rune],
      [BETTINA, 3, 'doorstep', NAMES.bettina],
    ] as const
  ).map(([participantId, seat, role, name]): SessionEvent => ({
    type: 'participantJoined',
    by: participantId,
    participantId,
    seat,
    role,
    ...(role === 'technician' ? { technicianId: name } : {}),
    signKey: key,
    agreeKey: key,
    way: 'test',
    personal: { name },
  })),
];
const state: SessionState = before.reduce((s, event) => evolveSession(s, SessionEvent.parse(event), 0), newSession);

const person = fc.constantFrom(PIM, RUNE, BETTINA);
const permission = fc.constantFrom(...allPermissions);
const text = fc.constantFrom('±24 mm', 'MF-201', '…');
const event = <T extends SessionEvent['type']>(type: T, fields: Record<string, fc.Arbitrary<unknown>> = {}) =>
  fc.record({ type: fc.constant(type), by: person, ...fields }) as unknown as fc.Arbitrary<SessionEvent>;

const events: fc.Arbitrary<SessionEvent> = fc.oneof(
  event('ticketAttached', { ticketRef: text }),
  event('programStarted', { participantId: person }),
  event('changeOverWanted', { participantId: person }),
  event('changeOverAnswered', { participantId: person, isYes: fc.boolean() }),
  event('participantLeft', { participantId: person, reason: text }),
  event('callAnswered', { answer: fc.constantFrom('i-called', 'they-called') }),
  event('customerAccepted', { noticeVersion: text }),
  event('aimChosen', { aim: fc.constantFrom('look', 'work') }),
  event('sourceChosen', { what: fc.constantFrom('browser', 'window', 'monitor', 'camera', 'other') }),
  event('privateMoment', { isOn: fc.boolean() }),
  event('customerAway', { isAway: fc.boolean() }),
  event('permissionsAsked', {
    participantId: fc.constantFrom(PIM, RUNE),
    askId: fc.constant(uuid(9)),
    permissions: fc.uniqueArray(permission, { minLength: 1, maxLength: 8 }),
    expiresAtMs: fc.constant(1),
  }),
  event('askClosed', { askId: fc.constant(uuid(9)), how: fc.constantFrom('refused', 'lapsed', 'taken-back') }),
  event('permissionWithdrawn', { participantId: fc.constantFrom(PIM, RUNE), permission, why: text }),
  event('controlStarted', { participantId: fc.constantFrom(PIM, RUNE) }),
  event('controlStopped', { participantId: fc.constantFrom(PIM, RUNE), why: text, clicks: fc.nat(), keys: fc.nat() }),
  event('screenLost', { why: text }),
  event('wordsCompared', { participantId: fc.constantFrom(PIM, RUNE), isSame: fc.boolean() }),
  event('screenshot/taken', {
    participantId: fc.constantFrom(PIM, RUNE),
    screenshotId: fc.constant(uuid(8)),
    width: fc.nat(),
    height: fc.nat(),
  }),
  event('screenshot/kept', {
    screenshotId: fc.constant(uuid(8)),
    place: fc.constantFrom('technician', 'session', 'customer'),
    sha256: fc.constant('a'.repeat(64)),
  }),
  event('sound/heard', { participantId: fc.constantFrom(PIM, RUNE) }),
  event('speaking/opened', { participantId: fc.constantFrom(PIM, RUNE) }),
  event('camera/seen', { participantId: fc.constantFrom(PIM, RUNE) }),
  event('camera/pictureTaken', { participantId: fc.constantFrom(PIM, RUNE), width: fc.nat(), height: fc.nat() }),
  event('own-screen/begun', {
    showingId: fc.constant(uuid(7)),
    what: fc.constantFrom('screen', 'window', 'tab', 'picture'),
  }),
  event('own-screen/ended', { showingId: fc.constant(uuid(7)) }),
  event('own-screen/closed', { showingId: fc.constant(uuid(7)) }),
  event('hands-off/begun', {
    participantId: fc.constantFrom(PIM, RUNE),
    what: fc.constantFrom('input', 'screen'),
  }),
  event('hands-off/ended', {
    participantId: fc.constantFrom(PIM, RUNE),
    what: fc.constantFrom('input', 'screen'),
    why: text,
  }),
  event('hands-off/stepBack', { isAsked: fc.boolean() }),
  event('files/folderOffered', {
    fileId: fc.constant(uuid(20)),
    fromId: fc.constantFrom(PIM, BETTINA),
    toId: fc.constantFrom(PIM, BETTINA),
    count: fc.nat({ max: 3 }),
    sizeBytes: fc.nat(),
    sha256: fc.constant(key),
    personal: fc.option(fc.constant({ name: 'Quayprint 4.1' }), { nil: undefined }),
  }),
  event('files/paused', { fileId: fc.constant(uuid(20)), isPaused: fc.boolean() }),
  event('files/namesOpened', {
    forId: fc.constantFrom(PIM, RUNE),
    isDeep: fc.boolean(),
    fact: fc.constant(1),
    personal: fc.option(fc.constant({ path: 'Documents/Kai' }), { nil: undefined }),
  }),
  event('one-program/shown', { shows: fc.constantFrom('everything', 'program', 'nothing'), fact: fc.constant(1) }),
  event('passwords/begun', { care: fc.constantFrom('covered', 'paused'), fact: fc.constant(1) }),
  event('passwords/ended', { fact: fc.constant(1) }),
  event('beside/letIn', {
    technicianId: fc.constant('rune'),
    part: fc.constant('colleague'),
    personal: fc.constant({ name: NAMES.rune }),
  }),
  event('possible/changed', { can: fc.constant([]), cannot: fc.constant({}) }),
  event('beside/sentAway', { technicianId: fc.constant('rune') }),
  event('handedOver', { toParticipantId: fc.constant(RUNE), fromParticipantId: fc.constant(PIM) }),
  event('tryItAsked'),
  event('tryItAnswered', { answer: fc.constantFrom('works', 'does-not', 'cannot-tell') }),
  event('sessionEnded', { reason: fc.constantFrom('technician', 'customer', 'stop', 'fraud', 'nobody'), why: text }),
  event('factNoted', { what: fc.constantFrom(...notedFacts) }),
);

const others = languages.filter((language) => language !== 'en');
const tellers = { technician: sentenceForTechnicians, customer: sentenceForCustomer };

describe.each(others.flatMap((language) => (['technician', 'customer'] as const).map((who) => ({ who, language }))))(
  'a $who who reads $language',
  ({ who, language }) => {
    it('is told of everything that happens in it, with every name filled in', () => {
      const tell = tellers[who];
      fc.assert(
        fc.property(events, (e) => {
          const sentence = tell(e, state, ledger[language]);
          const said = sentence.replaceAll(new RegExp(Object.values(NAMES).join('|'), 'g'), '');
          expect(foreign(said, language), sentence).toBe(false);
          expect(sentence, 'nothing is left open').not.toMatch(/[{}]|undefined|\[object/);
          expect(sentence).not.toBe(tell(e, state, ledger.en));
        }),
        runs(),
      );
    });
  },
);

describe.each(others)('a customer who reads %s', (language) => {
  it('is asked for every permission in words of their own', () => {
    for (const one of allPermissions) {
      const words = customersAct(one, ledger[language]);
      expect(foreign(words, language), words).toBe(false);
      expect(words).not.toBe(customersAct(one, ledger.en));
    }
    expect(new Set(allPermissions.map((one) => customersAct(one, ledger[language]))).size).toBe(allPermissions.length);
  });
});

it('in English it is “may” and not “ask”, with one word for one act', () => {
  const all = allPermissions.map((one) => customersAct(one, ledger.en)).join(' ');
  for (const other of ['work mouse', 'reach', 'take prints', 'run on it']) expect(all).not.toContain(other);
});
