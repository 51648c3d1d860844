import { pino } from 'pino';
import { describe, expect, it } from 'vitest';
import { Background } from './background.ts';
import { Turns } from './turns.ts';

describe('turns', () => {
  it('are taken one after the other for one name, in order, and not for another', async () => {
    const turns = new Turns(new Background(pino({ level: 'silent' })));
    const said: string[] = [];
    const releases: (() => void)[] = [];
    const work = (what: string) => async () => {
      said.push(`${what} begins`);
      await new Promise<void>((resolve) => releases.push(resolve));
      said.push(`${what} ends`);
      return what;
    };
    const [first, second, other] = [
      turns.take('a', work('first')),
      turns.take('a', work('second')),
      turns.take('b', work('other')),
    ];
    await Promise.resolve();
    expect(said).toEqual(['first begins', 'other begins']);
    for (const release of releases.splice(0)) release();
    expect(await first).toBe('first');
    await other;
    expect(said.slice(2)).toEqual(['first ends', 'other ends', 'second begins']);
    for (const release of releases) release();
    expect(await second).toBe('second');
  });

  it('go on after one that failed, which only whoever took it hears', async () => {
    const background = new Background(pino({ level: 'silent' }));
    const turns = new Turns(background);
    const failing = turns.take('a', () => Promise.reject(new Error('no')));
    const next = turns.take('a', () => Promise.resolve('yes'));
    await expect(failing).rejects.toThrow('no');
    expect(await next).toBe('yes');
    expect(background.failures).toBe(0);
  });
});
