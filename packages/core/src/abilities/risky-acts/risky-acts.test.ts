import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mayDo } from '../../people/may-do.ts';
import { isOutsideHours, readCarefulLabels, ruleOfLabel } from './careful-labels.ts';

describe('what labels of devices mean', () => {
  it('is read row by row, and what is none says so', () => {
    const rules = readCarefulLabels(
      'till: second person + Mon-Fri 02:00-05:00 + Sat-Sun 00:00-06:00 + override; Clinical: never',
    );
    expect(
      rules.map(({ label, isNever, needsSecond, mayOverride, hours }) => [
        label,
        isNever,
        needsSecond,
        mayOverride,
        hours.length,
      ]),
    ).toEqual([
      ['till', false, true, true, 7],
      ['Clinical', true, false, false, 0],
    ]);
    expect(ruleOfLabel(rules, ' CLINICAL')?.isNever).toBe(true);
    expect(ruleOfLabel(rules, 'kiosk')).toBeUndefined();
    expect(ruleOfLabel(rules, undefined)).toBeUndefined();
    expect(readCarefulLabels('')).toEqual([]);
    for (const wrong of [
      'till',
      'till:',
      ': never',
      'till: sometimes',
      'till: override',
      'till: Mon 05:00-02:00',
      'till: never +',
    ])
      expect(() => readCarefulLabels(wrong), wrong).toThrow();
  });

  it('is outside of its hours exactly when no hour of the desk’s own clock holds it', () => {
    const [till] = readCarefulLabels('till: Mon-Sun 02:00-05:00');
    if (!till) throw new Error('read');
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4e12 }), (atMs) => {
        const text = new Intl.DateTimeFormat('en', {
          timeZone: 'Europe/Oslo',
          hour: '2-digit',
          hourCycle: 'h23',
        }).format(atMs);
        const hour = Number(text);
        expect(isOutsideHours(till, atMs, 'Europe/Oslo')).toBe(!(hour >= 2 && hour < 5));
      }),
      runs(),
    );
    const [always] = readCarefulLabels('till: second person');
    expect(always && isOutsideHours(always, 0, 'Europe/Oslo')).toBe(false);
  });
});

it('the second yes is never somebody’s own, nor a trainee’s; an override is looked at by who leads them', () => {
  const own = { isOwnAct: true, ownerTeam: 'Pier Systems' };
  const on = { isOwnAct: false, ownerTeam: 'Pier Systems' };
  const person = (role: 'technician' | 'trainee' | 'lead', team = 'Pier Systems') => ({ id: 'rune', role, team });
  for (const role of ['technician', 'lead'] as const) expect(mayDo(person(role), 'give a second yes', own)).toBe(false);
  expect(mayDo(person('trainee'), 'give a second yes', on)).toBe(false);
  expect(mayDo(person('technician'), 'give a second yes', on)).toBe(true);
  expect(mayDo(person('technician'), 'look at an override', on)).toBe(false);
  expect(mayDo(person('lead'), 'look at an override', on)).toBe(true);
  expect(mayDo(person('lead', 'Ship Systems'), 'look at an override', on)).toBe(false);
});
