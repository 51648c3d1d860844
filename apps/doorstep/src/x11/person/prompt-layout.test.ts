import { expect, it } from 'vitest';
import { layoutPrompt } from './prompt-layout.ts';

const question = (choices: number) => ({
  title: 'Rune Takahashi of Marrowick Ferries takes over from Pim Aldersey',
  lines: Array.from(
    { length: choices },
    (_, i) => `What is copied from now on can be read, and more that is to be known before a yes, ${i}.`,
  ),
  yes: 'Yes',
  no: 'No',
  readFirst: 'Please read first …',
  onlyYou: 'Only you can answer.',
  choices: Array.from({ length: choices }, (_, i) => ({ label: `something ${i}`, isOn: true })),
});

it('has both answers on the screen, however much is asked at once, and reads at its best where there is room', () => {
  for (const choices of [0, 2, 4, 6, 8]) {
    const { yes, no, height, width } = layoutPrompt(question(choices), { width: 1280, height: 800 });
    expect(height, `${choices} choices`).toBeLessThanOrEqual(800);
    expect([yes.y + yes.height <= height, no.y + no.height <= height, yes.x + yes.width <= width]).toEqual([
      true,
      true,
      true,
    ]);
  }
  expect(layoutPrompt(question(2), { width: 1280, height: 800 })).toEqual(layoutPrompt(question(2)));
});
