import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  environmentOf,
  faultsIn,
  filledIn,
  isWithinHome,
  readActionText,
  RunbookAction,
  stepsOf,
  textOfAction,
  valueFaults,
  valuesFor,
} from './action.ts';
import { plainOutput } from './printed.ts';

const action = RunbookAction.parse({
  ...{ name: 'barcode-height', title: 'Set the barcode height', kind: 'script', interpreter: 'sh', body: 'echo' },
  parameters: [
    { name: 'HEIGHT', label: 'Height', kind: 'number', first: '24' },
    { name: 'QUAY', label: 'Quay', kind: 'choice', choices: ['Tern Quay', 'Lower Saltby'], isOptional: true },
    { name: 'PIN', label: 'PIN', kind: 'secret' },
  ],
});
const anything = fc.string({ unit: 'grapheme', maxLength: 300 });

describe('an action as text', () => {
  it('is the same text in whatever order its parts were written, and is read back as it was', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray(Object.keys(action), { minLength: Object.keys(action).length }), (keys) => {
        const written = Object.fromEntries(keys.map((key) => [key, action[key as keyof RunbookAction]]));
        expect(textOfAction(RunbookAction.parse(written))).toBe(textOfAction(action));
      }),
      runs(),
    );
    expect(readActionText(textOfAction(action))).toEqual(action);
  });

  it('is nothing that could be run when anything about it is wrong', () => {
    fc.assert(
      fc.property(anything, (text) => {
        expect(readActionText(text)).toBeUndefined();
      }),
      { ...runs(), examples: [['{}'], ['null'], ['[]']] },
    );
    expect(faultsIn({ ...action, target: '~/a' })).toEqual(['target-for-nothing']);
    expect(readActionText(textOfAction({ ...action, target: '~/a' }))).toBeUndefined();
  });
});

describe('what an action is given', () => {
  it('is right exactly when nothing is said against it, and nothing that was not asked for comes with it', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom('HEIGHT', 'QUAY', 'PIN', 'PATH'), anything), (given) => {
        const faults = valueFaults(action, given);
        const environment = environmentOf(action, valuesFor(action, given));
        expect(Object.keys(environment)).toEqual(['GIVEN_HEIGHT', 'GIVEN_QUAY', 'GIVEN_PIN']);
        expect(faults['PATH']).toBe('PATH' in given ? 'unknown' : undefined);
        if (faults['HEIGHT'] === undefined) expect(environment['GIVEN_HEIGHT']).toMatch(/^-?\d+(\.\d+)?$/);
        for (const value of Object.values(environment))
          if (!Object.keys(faults).length) expect(value).not.toMatch(/[\n\r\0]/);
      }),
      runs(),
    );
    expect(valueFaults(action, { PIN: 'harbour' })).toEqual({});
    expect(valueFaults(action, { HEIGHT: '1e3', QUAY: 'Elsewhere', PIN: 'abc' })).toEqual({
      ...{ HEIGHT: 'not-a-number', QUAY: 'not-a-choice', PIN: 'too-short' },
    });
  });

  it('stands in a text as it is, whatever it looks like', () => {
    fc.assert(
      fc.property(anything, (value) => {
        expect(filledIn('a {{X}} b {{Y}} c', { X: value })).toBe(`a ${value} b {{Y}} c`);
      }),
      { ...runs(), examples: [['$&'], ['$1'], ['{{X}}'], ['{{Y}}']] },
    );
  });
});

it('goes into a home, and nowhere up from it', () => {
  for (const path of ['~/a', 'a/b.conf', '~/.config/x y/ü.ini']) expect(isWithinHome(path), path).toBe(true);
  for (const path of [
    '/etc/passwd',
    '../a',
    '~/../a',
    '~/a/../../b',
    'a//b',
    '~',
    '',
    './a',
    'a/',
    'a\nb',
    '~/a/..',
    '~bettina/a',
  ])
    expect(isWithinHome(path), path).toBe(false);
});

it('has steps where a box stands', () => {
  expect(stepsOf('# Look\n- [ ] One\n  * [ ]  Two **b**\n- [x] done\n-[ ] none\n- []\n- [] Three')).toEqual([
    ...['One', 'Two **b**', 'Three'],
  ]);
});

describe('what a program printed', () => {
  it('is text that does nothing, whatever it was', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(anything, fc.constantFrom('\u001b[31m', '\u001b]0;t\u0007', '\u001b', '\r', '\u202e'))),
        (parts) => {
          const plain = plainOutput(parts.join(''));
          expect(plain).not.toMatch(/[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/);
          expect(plainOutput(plain)).toBe(plain);
        },
      ),
      runs(),
    );
    expect(plainOutput('\u001b[1;31mred\u001b[0m \u001b]8;;http://a.example\u001b\\link\u001b]8;;\u001b\\')).toBe(
      'red link',
    );
    expect(plainOutput('Grüße 日本 👍🏽\ttab\n')).toBe('Grüße 日本 👍🏽\ttab\n');
  });
});
