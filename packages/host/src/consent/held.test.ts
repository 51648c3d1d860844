import { VirtualClock } from '@porch/testkit/virtual-clock';
import { makeKeys } from '@porch/wire';
import { beforeEach, describe, expect, it } from 'vitest';
import { GrantBook } from './grant-book.ts';
import { Held } from './held.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const pim = makeKeys();

describe('a lease', () => {
  let time: VirtualClock;
  let grants: GrantBook;
  let held: Held;
  let ends = 0;
  const grant = (forMs: number, permission: 'view-screen' | 'control-input' = 'view-screen') =>
    grants.grant(permission, pim, time.nowMs() + forMs, time.nowMs());
  beforeEach(() => {
    time = new VirtualClock();
    ends = 0;
    grants = new GrantBook(makeKeys(), SESSION, 0);
    held = new Held(grants, time, time.nowMs, () => ends++);
  });

  it('is over from the start without a grant, and for every other key', () => {
    const none = held.during('view-screen', pim.signKey);
    expect([none.state.name, none.isRunning, none.signal.aborted]).toEqual(['over', false, true]);
    grant(1_000);
    expect(held.during('view-screen', makeKeys().signKey).state.name).toBe('over');
    expect(none.isRunning, 'a later grant wakes nothing up').toBe(false);
  });
  it('goes on over a renewal without a gap, and not over one after an end or a withdrawal', () => {
    grant(1_000);
    const first = held.during('view-screen', pim.signKey);
    time.advance(900);
    grant(1_000);
    time.advance(900);
    expect([first.isRunning, first.signal.aborted]).toEqual([true, false]);
    grants.drop('view-screen', pim.signKey);
    expect(first.signal.aborted, 'in the very tick').toBe(true);
    grant(1_000);
    expect(first.isRunning).toBe(false);
    const second = held.during('view-screen', pim.signKey);
    expect(second.isRunning).toBe(true);
    time.advance(1_500);
    grant(1_000);
    expect([second.isRunning, second.signal.aborted]).toEqual([false, true]);
  });
  it('ends by a timer of its own, and says so, though nothing else happens', () => {
    grant(1_000);
    const lease = held.during('view-screen', pim.signKey);
    time.advance(999);
    expect([lease.isRunning, ends]).toEqual([true, 0]);
    time.advance(10);
    expect([lease.isRunning, lease.signal.aborted, ends]).toEqual([false, true, 1]);
  });
  it('falls with what it needs, and is paused with a reason without being over', () => {
    grant(1_000);
    grant(1_000, 'control-input');
    const [view, control] = [held.during('view-screen', pim.signKey), held.during('control-input', pim.signKey)];
    held.pausedBy = (permission) => (permission === 'control-input' ? 'nobody is at their computer' : undefined);
    expect(control.state).toEqual({ name: 'paused', why: 'nobody is at their computer' });
    expect([control.isRunning, control.signal.aborted, view.isRunning]).toEqual([false, false, true]);
    held.pausedBy = () => undefined;
    expect(control.isRunning).toBe(true);
    grants.drop('view-screen', pim.signKey);
    expect([view.state.name, control.state.name, control.signal.aborted]).toEqual(['over', 'over', true]);
  });
  it('is over when the host closes, whatever is still held', () => {
    grant(1_000);
    const lease = held.during('view-screen', pim.signKey);
    held.close();
    expect([lease.isRunning, lease.signal.aborted]).toEqual([false, true]);
  });
});
