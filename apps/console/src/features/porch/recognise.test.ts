import { console as words } from '@porch/words/console';
import type { PorchView } from '@porch/wire';
import { expect, it } from 'vitest';
import { recognise } from './recognise.ts';

const said = words.en.start;

const ticket = (ref: string, name: string, asset: string) => ({
  ref,
  title: `About ${asset}`,
  state: 'open',
  requester: { name, address: `${ref}@marrowick.example` },
  asset,
  description: '',
});
const device = (name: string, state: 'in-use' | 'offline') => ({
  id: name,
  name,
  customerName: 'Bettina Crole',
  allowed: ['view-screen' as const],
  untilMs: 9e12,
  asksEachVisit: true,
  state,
});
const porch: PorchView = {
  ways: { hasMail: true, hasTexts: true },
  me: { isAway: false, wrapUpMs: 0, screens: 0, chats: 0, limits: { screens: 3, chats: 5 } },
  bundles: [],
  mayNotAsk: [],
  knownFaults: [],
  carefulActs: [],
  bookings: [],
  devices: [device('tern-quay-04', 'in-use'), device('saltby-kiosk-3', 'offline')],
  waiting: [
    {
      id: 'e1',
      name: 'Ada Quillfeather',
      topic: 'Kiosks',
      language: 'en',
      description: '',
      sinceMs: 0,
      state: 'waiting',
      wants: 'screen',
      isConfirmed: false,
      messages: [],
      reasons: [],
      hurdles: [],
    },
  ],
  tickets: [
    ticket('MF-201', 'Bettina Crole', 'tern-quay-04'),
    ticket('MF-207', 'Bettina Crole', 'tern-quay-02'),
    ticket('MF-203', 'Samir Oduya', 'petrel-bridge-1'),
  ],
  sessions: [],
  handovers: [],
  undelivered: 0,
  nowMs: 0,
};

it.each([
  ['', { what: 'nothing' }],
  ['   ', { what: 'nothing' }],
  ['mf-201', { what: 'ticket', ref: 'MF-201' }],
  ['MF 203', { what: 'ticket', ref: 'MF-203' }],
  ['mf999', { what: 'ticket', ref: 'mf999' }],
  ['Störung-7', { what: 'ticket', ref: 'Störung-7' }],
  ['quill', { what: 'entry', id: 'e1' }],
  ['samir', { what: 'ticket', ref: 'MF-203' }],
  ['petrel', { what: 'ticket', ref: 'MF-203' }],
  ['mf-203@marrowick.example', { what: 'ticket', ref: 'MF-203' }],
  ['bettina', { what: 'unknown', sentence: '2 of your tickets fit; choose one below.' }],
  ['nobody', { what: 'unknown' }],
  ['Tern-Quay-04', { what: 'device', id: 'tern-quay-04' }],
  ['saltby-kiosk-3', { what: 'unknown' }],
])('says what Enter will do with “%s”', (typed, expected) => {
  const { sentence, ...found } = recognise(typed, porch);
  expect({ ...found, sentence: sentence(said) }).toMatchObject(expected);
});
it('says which ticket it is while it is typed, and manages without a porch', () => {
  expect(recognise('mf-201', porch).sentence(said)).toContain('About tern-quay-04');
  expect(recognise('bettina', undefined).what).toBe('unknown');
});
