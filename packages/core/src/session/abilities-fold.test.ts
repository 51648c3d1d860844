import { describe, expect, it } from 'vitest';
import { byType } from '../by-type.ts';
import { ledger } from '@porch/words/ledger';
import { languages } from '../language.ts';
import { allPermissions, rulesOf } from '../permission/permission.ts';
import { commandTypes } from './session-commands.ts';
import { eventTypes, isAbilitysEvent, SessionEvent } from './session-events.ts';
import { newSession } from './session-state.ts';
import { evolveSession } from './evolve.ts';
import { abilities, abilityOf, abilityStory, customersAct, techniciansAct, whatIsUndone } from '../abilities/index.ts';

describe('the list of abilities', () => {
  it('has each event, command and permission once, and says so at the start when that is not so', () => {
    expect(() => byType('event', [['drawn', 1] as const, ['drawn', 2] as const])).toThrow(/two of the event “drawn”/);
    expect(new Set(eventTypes).size).toBe(eventTypes.length);
    expect(new Set(commandTypes).size).toBe(commandTypes.length);
  });
  it('lists what another permission needs before it, and knows whose each is', () => {
    for (const [i, permission] of allPermissions.entries()) {
      const { needs } = rulesOf(permission);
      if (needs) expect(allPermissions.indexOf(needs)).toBeLessThan(i);
      expect(abilities.map(({ name }) => name)).toContain(abilityOf.get(permission));
    }
  });
  it('has words for every permission, in every language and for both sides', () => {
    for (const words of [customersAct, techniciansAct, whatIsUndone])
      for (const permission of allPermissions) {
        const said = languages.map((language) => words(permission, ledger[language]));
        expect(said).not.toContain(permission);
        expect(new Set(said).size, said.join(' · ')).toBe(languages.length);
      }
  });
  it('tells of its own events only, and each of them', () => {
    for (const { events, tell, inStory } of abilities) {
      expect(Object.keys(tell).sort()).toEqual(Object.keys(events).sort());
      for (const type of inStory) expect(Object.keys(events)).toContain(type);
    }
    for (const type of abilityStory) expect(eventTypes).toContain(type);
  });
});

describe('an event that nobody here knows', () => {
  it('is no event to write, and changes nothing but that it is remembered', () => {
    expect(SessionEvent.safeParse({ type: 'whiteboard/drawn', by: 'x' }).success).toBe(false);
    expect([isAbilitysEvent('whiteboard/drawn'), isAbilitysEvent('everythingForbidden')]).toEqual([true, false]);
    const event = { type: 'notUnderstood' as const, by: 'x', what: 'whiteboard/drawn' };
    const { notUnderstood, ...after } = evolveSession(newSession, event, 1);
    const { notUnderstood: _none, ...before } = newSession;
    expect([after, notUnderstood]).toEqual([before, ['whiteboard/drawn']]);
  });
});
