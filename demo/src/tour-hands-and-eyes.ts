import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Stage } from './stage.ts';

/** What the tour has that its parts need. */
export interface TourKit {
  porch(args: string[], expected?: number, input?: string): Promise<string>;
  /** The same, and how long after its start it said this. */
  whenSaid(args: string[], words: string): Promise<number>;
  step(title: string): void;
  expect(isTrue: boolean, what: string): void;
  until(what: string, isTrue: () => boolean | Promise<boolean>): Promise<void>;
  readonly homes: string;
  /** The same, and nothing is told of it: for what is looked at again and again. */
  quietly(args: string[]): Promise<string>;
  /** The ledger as `porch watch` tells it from now on. */
  watched(): { soFar(): string; stop(): void };
  readonly bettina: Stage['customers'][number];
}

/** Everything that happens at the screen once it is seen: kept, pointed at, worked, copied. */
export async function handsAndEyes({ porch, step, expect, until, homes, bettina }: TourKit): Promise<void> {
  step('A screenshot: asked for by itself, blanked where it shows too much, kept with the session');
  const shot = join(homes, 'settings.png');
  await porch(['screenshot', '-o', shot], 1);
  await porch(['ask', 'screenshot']);
  await porch(['screenshot', '-o', shot, '--keep', '--blank', '0,0,400,60', '--mark', '40,80,300,120']);
  expect(readFileSync(shot).length > 5_000, 'it is saved here, too');

  step('Pointing instead of doing: on her own screen, above all windows, with his name');
  await porch(['draw', 'arrow', '500,420', '330,240'], 1);
  await porch(['ask', 'draw']);
  await porch(['draw', 'box', '40,200', '330,240']);
  await porch(['draw', 'text', '340,250', '--text', 'These two lines']);
  await porch(['unmark']);

  step('Showing instead of watching: a picture of his, in a window on her desktop');
  await porch(['show', shot], 1);
  await porch(['ask', 'show']);
  await porch(['show', shot]);
  await until('she sees it', async () => (await porch(['status'])).includes('They see settings.png.'));
  await porch(['show', '--stop']);

  step('Working: a permission of its own');
  await porch(['click', '300', '300'], 1);
  await porch(['ask', 'work']);
  await porch(['click', '300', '300']);
  await porch(['press', 'Ctrl+End']);
  await porch(['type', 'barcode-height = 24  # mm, åpen “Sluse”, проверено ✓\n']);
  await porch(['press', 'Ctrl+S']);
  await until('what was typed is in the file on her desktop', () =>
    readFileSync(bettina.desktop.settingsFile, 'utf8').includes('barcode-height = 24  # mm, åpen “Sluse”, проверено ✓'),
  );

  step('Hands off: asked as a favour; then her mouse, keyboard and screen rest for a moment, by her leave');
  await porch(['step-back']);
  await porch(['step-back', '--over']);
  await porch(['ask', 'block']);
  await porch(['ask', 'cover']);
  await until('both rest', async () => {
    const status = await porch(['status']);
    return status.includes('keyboard rest: 4:') && status.includes('covered: 4:');
  });
  // Nothing is fetched meanwhile, and nobody is even asked.
  await porch(['ask', 'fetch'], 1);
  await porch(['give-back', 'cover']);
  await porch(['give-back', 'block']);

  step('Clipboards, each way a permission of its own');
  await porch(['copy-to', 'too early'], 1);
  await porch(['ask', 'paste']);
  await porch(['copy-to', '# pasted by Pim: ±24 mm']);
  await porch(['press', 'Ctrl+V']);
  await porch(['press', 'Ctrl+S']);
  await until('what was pasted is in the file on her desktop', () =>
    readFileSync(bettina.desktop.settingsFile, 'utf8').includes('# pasted by Pim: ±24 mm'),
  );
}
