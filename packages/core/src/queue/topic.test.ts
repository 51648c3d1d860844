import { expect, it } from 'vitest';
import { readTopics } from './topic.ts';

it('reads topics with their words, and falls back to what they are filed under', () => {
  expect(readTopics('Printing | Utskrift | Drucken, Signing in, , On board | Om bord')).toEqual([
    { topic: 'Printing', words: { en: 'Printing', no: 'Utskrift', de: 'Drucken' }, skills: [] },
    { topic: 'Signing in', words: { en: 'Signing in', no: 'Signing in', de: 'Signing in' }, skills: [] },
    { topic: 'On board', words: { en: 'On board', no: 'Om bord', de: 'On board' }, skills: [] },
  ]);
});

it('reads whose work topics are and what one has to know for them', () => {
  const needs = readTopics('On board, Printing', 'On board = Ship Systems + radio; Printing = + ink');
  expect(needs.map(({ team, skills }) => [team, skills])).toEqual([
    ['Ship Systems', ['radio']],
    [undefined, ['ink']],
  ]);
  expect(() => readTopics('On board', 'Tea = Ship Systems')).toThrow(/no topic “Tea”/);
  expect(() => readTopics('On board', 'On board')).toThrow(/is not like/);
});
