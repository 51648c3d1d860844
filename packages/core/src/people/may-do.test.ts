import { expect, it } from 'vitest';
import { allActions, couldDo, DESK_TEAM, mayDo, type Action, type Person, type Thing } from './may-do.ts';

const pim: Person = { id: 'pim', role: 'technician', team: 'Pier Systems' };
const noor: Person = { id: 'noor', role: 'trainee', team: 'Pier Systems' };
const odalys: Person = { id: 'odalys', role: 'lead', team: DESK_TEAM };
const shipLead: Person = { id: 'wanjiru', role: 'lead', team: 'Ship Systems' };

/** What each may do to something of Rune's, who is in Pier Systems, that they have nothing to do with. */
const ofRune: Thing = { ownerId: 'rune', ownerTeam: 'Pier Systems' };

it('keeps a trainee from what waiting people and other teams would feel', () => {
  const refused: Action[] = [
    'take somebody waiting',
    'write to somebody waiting',
    'publish a known fault',
    'end a known fault',
    'book',
    'change a booking',
    'read a session',
    'join a session',
    'erase a session',
    'visit a device',
    'forget a device',
  ];
  for (const action of refused) expect(mayDo(noor, action, ofRune), action).toBe(false);
  expect(mayDo(noor, 'take somebody waiting', { offeredTo: 'noor' })).toBe(true);
  expect(mayDo(noor, 'book', { ownerId: 'noor', ownerTeam: noor.team })).toBe(true);
});

it('keeps leads to their team, but for those who lead the desk', () => {
  for (const action of ['read a session', 'erase a session', 'change a booking', 'end a known fault'] as const) {
    expect(mayDo(shipLead, action, ofRune), action).toBe(false);
    expect(mayDo(shipLead, action, { ownerId: 'x', ownerTeam: 'Ship Systems' }), action).toBe(true);
    expect(mayDo(odalys, action, ofRune), action).toBe(true);
    // What belongs to nobody who is known is only the desk's.
    expect(mayDo(shipLead, action, {}), action).toBe(false);
  }
});

it('opens the brief to who is asked to take over, and the session only to who said yes', () => {
  const asked: Thing = { ...ofRune, offeredTo: 'pim' };
  expect(mayDo(pim, 'answer a handover', asked)).toBe(true);
  expect([mayDo(pim, 'read a session', asked), mayDo(pim, 'join a session', asked)]).toEqual([false, false]);
  expect(mayDo(pim, 'join a session', { ...asked, isAccepted: true })).toBe(true);
});

it('refuses what is not in the table', () => {
  expect(mayDo(odalys, 'become the customer' as Action)).toBe(false);
  expect(mayDo(odalys, 'toString' as Action)).toBe(false);
  for (const action of allActions) expect(couldDo(odalys, action), action).toBe(true);
});
