import { describe, expect, it } from 'vitest';
import type { SessionView } from '../ability/session-view.ts';
import { commandLineRules } from './command-line/rules.ts';
import { commandLine, mayClose, type CommandLineSlice } from './command-line/shape.ts';
import { runbookRules } from './runbook/rules.ts';
import { mayEnd, runbook, type RunbookSlice } from './runbook/shape.ts';

/* What runs at a computer stands open in the ledger no longer than it can run. */
const [ONE, TWO] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
const view = { isOver: false } as SessionView;
const me = { id: 'doorstep' } as never;

describe('an action that runs', () => {
  const runOf = (byId: string) => ({ byId, standing: 'running', outcome: undefined }) as RunbookSlice[string];
  const both: RunbookSlice = { [ONE]: runOf('pim'), [TWO]: runOf('rune') };
  const standings = (slice?: RunbookSlice) => [ONE, TWO].map((id) => slice?.[id]?.standing);

  it('is over once its permission, whose it is, or the computer is gone', () => {
    expect(standings(runbook.fell?.(both, 'run-runbook', 'pim'))).toEqual(['over', 'running']);
    expect(standings(runbook.fell?.(both, 'view-screen', 'pim'))).toEqual(['running', 'running']);
    expect(standings(runbook.left?.(both, 'rune', false))).toEqual(['running', 'over']);
    expect(standings(runbook.left?.(both, 'doorstep', true))).toEqual(['over', 'over']);
    expect(standings(runbook.ended?.(both))).toEqual(['over', 'over']);
    const chosen = { [ONE]: { ...runOf('pim'), standing: 'chosen' as const } };
    expect(runbook.ended?.(chosen), 'what never ran').toEqual(chosen);
  });
  it('is still said to have ended, once, and what it printed before', () => {
    const { decide } = runbookRules.rules;
    const over = runbook.ended?.(both) ?? {};
    const ended = { type: 'runbook/tellEnded', runId: ONE, outcome: 'broken-off', unsaid: 0 } as const;
    const said = { type: 'runbook/tellSaid', runId: ONE, text: 'half' } as const;
    expect(decide['runbook/tellSaid'](over, said, me, view, {} as never)).toHaveLength(1);
    const [event] = decide['runbook/tellEnded'](over, ended, me, view, {} as never) as never[];
    const told = runbook.evolve['runbook/ended']?.(over, event as never, view) ?? {};
    expect(told[ONE]).toMatchObject({ standing: 'over', outcome: 'broken-off' });
    expect(Object.values(told).map(mayEnd)).toEqual([false, true]);
    expect(decide['runbook/tellEnded'](told, ended, me, view, {} as never)).toEqual([]);
    expect(decide['runbook/tellSaid'](told, said, me, view, {} as never)).toEqual([]);
  });
});

describe('a command line', () => {
  const lineOf = (byId: string) => ({ byId, standing: 'open', how: undefined }) as CommandLineSlice[string];
  const both: CommandLineSlice = { [ONE]: lineOf('pim'), [TWO]: lineOf('rune') };
  const standings = (slice?: CommandLineSlice) => [ONE, TWO].map((id) => slice?.[id]?.standing);

  it('is over once its permission, whose it is, or the computer is gone, and is still said to have ended, once', () => {
    expect(standings(commandLine.fell?.(both, 'use-command-line', 'pim'))).toEqual(['over', 'open']);
    expect(standings(commandLine.fell?.(both, 'run-runbook', 'pim'))).toEqual(['open', 'open']);
    expect(standings(commandLine.left?.(both, 'rune', false))).toEqual(['open', 'over']);
    expect(standings(commandLine.left?.(both, 'doorstep', true))).toEqual(['over', 'over']);
    const over = commandLine.ended?.(both) ?? {};
    expect(standings(over)).toEqual(['over', 'over']);
    const { decide } = commandLineRules.rules;
    const closed = { type: 'command-line/tellClosed', lineId: ONE, how: 'broken-off', unsaid: 0 } as const;
    const [event] = decide['command-line/tellClosed'](over, closed, me, view, {} as never) as never[];
    const told = commandLine.evolve['command-line/closed']?.(over, event as never, view) ?? {};
    expect(Object.values(told).map(mayClose)).toEqual([false, true]);
    expect(decide['command-line/tellClosed'](told, closed, me, view, {} as never)).toEqual([]);
  });
});
