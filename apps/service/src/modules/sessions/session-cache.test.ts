import { newSession } from '@porch/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { OpenSession } from '../../module/open-session.ts';
import { SessionCache } from './session-cache.ts';

const session = (id: string): OpenSession => ({
  ...{ id, seq: 0, state: newSession, entries: [], rows: [], asides: [], asideRows: [] },
});

describe('sessions in memory', () => {
  it('are the last ones that were kept, whatever was kept before', () => {
    const cache = new SessionCache();
    for (let i = 0; i < 1_200; i++) cache.keep(session(`s${i}`));
    expect(cache.get('s0')).toBeUndefined();
    expect(cache.get('s1199')?.id).toBe('s1199');
    // Kept again it is the last one.
    cache.keep(session('s800'));
    for (let i = 0; i < 400; i++) cache.keep(session(`t${i}`));
    expect(cache.get('s800')?.id).toBe('s800');
  });

  it('stay while anybody holds them, however often it is let go of, and are no more than there is room for', () => {
    const step = fc.record({ kind: fc.constantFrom('keep', 'hold', 'letGo', 'flood'), id: fc.nat(4), at: fc.nat(9) });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 25 }), (steps) => {
        const cache = new SessionCache();
        const holds: { id: string; letGo: () => void; isHeld: boolean }[] = [];
        let flooded = 0;
        for (const { kind, id, at } of steps) {
          const name = `s${id}`;
          if (kind === 'keep') cache.keep(session(name));
          else if (kind === 'hold') {
            cache.keep(session(name));
            holds.push({ id: name, letGo: cache.hold(name), isHeld: true });
          } else if (kind === 'letGo') {
            const hold = holds[at];
            hold?.letGo();
            hold?.letGo();
            if (hold) hold.isHeld = false;
          } else for (let i = 0; i < 600; i++) cache.keep(session(`flood-${flooded++}`));
          for (const hold of holds) if (hold.isHeld) expect(cache.get(hold.id)?.id).toBe(hold.id);
        }
      }),
      { numRuns: 200, seed: 7 },
    );
  });
});
